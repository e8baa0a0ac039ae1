/* E. Ames: an alarm of the timer lights the digits; the core waits for events in between. */
#include "weir.h"

static volatile unsigned ticks;

static void tick(void)
{
	next_digit();
	ticks++;
}

int main(void)
{
	unsigned logs = 7;
	bool was = false;

	begin();
	show(logs);
	every_us(2000, tick);
	for (;;) {
		while (ticks < 10)
			wait_for_event();
		ticks = 0;
		bool now = !pin_read(LOG);
		if (now && !was) {
			logs = following(logs);
			show(logs);
		}
		was = now;
	}
}
