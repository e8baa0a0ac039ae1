/* M. Dyson: an alarm looks at the key; the core sleeps in between. */
#include "basin.h"

static volatile unsigned steps = 8;

static void look(void)
{
	static bool was;
	bool now = !pin_read(STEP);
	if (now && !was)
		steps = following(steps);
	was = now;
}

int main(void)
{
	unsigned shown = ~0u;

	begin();
	every_us(20000, look);
	for (;;) {
		if (shown != steps) {
			shown = steps;
			show(shown);
		}
		wait_for_interrupt();
	}
}
