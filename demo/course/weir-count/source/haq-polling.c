/* S. Haq: one loop that waits for the timer, and looks at the key every 20 ms. */
#include "weir.h"

#ifndef SLOT
#define SLOT 2000
#endif

int main(void)
{
	unsigned logs = 7, turn = 0;
	bool was = false;

	begin();
	show(logs);
	for (;;) {
		next_digit();
		wait_us(SLOT);
		if (++turn % (20000 / SLOT + 1))
			continue;
		bool now = !pin_read(LOG);
		if (now && !was) {
			logs = following(logs);
			show(logs);
		}
		was = now;
	}
}
