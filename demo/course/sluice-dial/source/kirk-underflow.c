/* S. Kirk: does not stop at 0. */
#include "max7219.h"
#include <util/delay.h>

int main(void)
{
	uint8_t code = 0, seen = 0, still = 0;
	int8_t percent = 0;

	PORTD = _BV(2) | _BV(3) | _BV(4);
	dial_begin();
	dial_show(0);
	for (;;) {
		_delay_us(250);
		uint8_t now = ~PIND & (_BV(2) | _BV(3) | _BV(4));
		still = now == seen ? still + 1 : 0;
		seen = now;
		if (still != 8)
			continue;
		if ((now & _BV(4)) && !(code & _BV(4)))
			percent = 0;
		if ((code & 0x0c) == 0x08 && (now & 0x0c) == 0)
			percent++;
		if ((code & 0x0c) == 0x04 && (now & 0x0c) == 0)
			percent--;
		if (percent < -99)
			percent = 0;
		if (percent > 99)
			percent = 99;
		code = now;
		dial_show(percent);
	}
}
