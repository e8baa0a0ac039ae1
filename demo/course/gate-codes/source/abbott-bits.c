/* P. Abbott: shifts the bits out by hand. */
#include <avr/io.h>
#include <util/delay.h>

static const uint8_t font[16] = {
	0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07,
	0x7f, 0x6f, 0x77, 0x7c, 0x39, 0x5e, 0x79, 0x71};

static void show(uint8_t segments)
{
	for (uint8_t bit = 0x80; bit; bit >>= 1) {
		if (segments & bit)
			PORTB |= _BV(3);
		else
			PORTB &= ~_BV(3);
		PORTB |= _BV(5);
		PORTB &= ~_BV(5);
	}
	PORTB |= _BV(2);
	PORTB &= ~_BV(2);
}

int main(void)
{
	DDRB = _BV(2) | _BV(3) | _BV(5);
	for (;;)
		for (uint8_t code = 0; code < 16; code++) {
			show(font[code]);
			_delay_ms(300);
		}
}
