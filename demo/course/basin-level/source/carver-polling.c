/* L. Carver: looks at the key every 20 ms. */
#include "basin.h"

int main(void)
{
	unsigned steps = 8;
	bool was = false;

	begin();
	show(steps);
	for (;;) {
		wait_ms(20);
		bool now = !pin_read(STEP);
		if (now && !was) {
			steps = following(steps);
			show(steps);
		}
		was = now;
	}
}
