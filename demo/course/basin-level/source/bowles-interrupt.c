/* R. Bowles: the key's edge interrupts; main() writes what is new. */
#include "basin.h"

static volatile unsigned steps = 8;
static volatile bool fresh = true;

static void pressed(void)
{
	static uint64_t last;
	uint64_t now = time_us();
	if (now - last > 30000 && !pin_read(STEP)) {
		steps = following(steps);
		fresh = true;
	}
	last = now;
}

int main(void)
{
	begin();
	pin_interrupt(STEP, FALLING | RISING, pressed);
	for (;;) {
		if (fresh) {
			fresh = false;
			show(steps);
		}
		wait_for_event();
	}
}
