/* E. Ames: a millisecond loop that debounces by counting equal looks. */
#include "gauge.h"
#include <util/delay.h>

static const uint8_t course[] = {0, 1, 2, 3, 4, 3, 2, 1, 0};

int main(void)
{
	uint8_t step = 0, level = 0, hand = 0, same = 0, pressed = 0;
	uint16_t passed = 0;

	digit_begin();
	PORTD |= _BV(7);
	digit_show(pattern[0]);
	for (;;) {
		_delay_ms(1);
		uint8_t now = !(PIND & _BV(7));
		same = now == pressed ? 0 : same + 1;
		if (same == 10) {
			same = 0;
			pressed = now;
			if (pressed) {
				hand = 1;
				if (level < 4)
					level++;
				digit_show(pattern[level]);
			}
		}
		if (!hand && step < 8 && ++passed == 698) {
			passed = 0;
			level = course[++step];
			digit_show(pattern[level]);
		}
	}
}
