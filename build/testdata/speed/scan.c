/* F. Hollis: one loop lights a digit every 2 ms and looks at the button once a round. */
#include "digits.h"

#ifndef SLOT
#define SLOT 2
#endif

int main(void)
{
	uint16_t boats = 8;
	uint8_t was = 0, same = 0;

	digits_begin();
	digits_set(boats);
	for (uint8_t turn = 0;; turn++) {
		digits_next();
		_delay_ms(SLOT);
		if (turn % 4)
			continue;
		uint8_t now = !(PINC & _BV(0));
		same = now == was ? 0 : same + 1;
		if (same == 2) {
			same = 0;
			was = now;
			if (now) {
				digits_set(++boats);
#ifdef WAIT
				_delay_ms(300);
#endif
			}
		}
	}
}
