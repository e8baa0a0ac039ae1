/* T. Mercer: never leaves shutdown. */
#include "max7219.h"
#include <util/delay.h>

static const int8_t step[16] = {0, 1, -1, 0, -1, 0, 0, 1, 1, 0, 0, -1, 0, -1, 1, 0};

int main(void)
{
	uint8_t code = 0, percent = 0, was = 0, still = 0;
	int8_t quarters = 0;

	PORTD = _BV(2) | _BV(3) | _BV(4);
	dial_begin();
	put(12, 0);
	for (;;) {
		_delay_us(500);
		uint8_t now = ~PIND;
		code = (code << 2 | (now & _BV(2) ? 2 : 0) | (now & _BV(3) ? 1 : 0)) & 15;
		quarters -= step[code];
		if (quarters >= 4 && percent < 99)
			dial_show(++percent);
		if (quarters <= -4 && percent > 0)
			dial_show(--percent);
		if (quarters >= 4 || quarters <= -4)
			quarters = 0;
		uint8_t pushed = (now & _BV(4)) != 0;
		still = pushed == was ? 0 : still + 1;
		if (still == 20) {
			still = 0;
			was = pushed;
			if (pushed) {
				percent = 0;
				dial_show(percent);
			}
		}
	}
}
