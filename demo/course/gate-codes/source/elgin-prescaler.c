/* T. Elgin: the timer runs four times too fast. */
#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t font[16] = {
	0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07,
	0x7f, 0x6f, 0x77, 0x7c, 0x39, 0x5e, 0x79, 0x71};

static void show(uint8_t segments)
{
	SPDR = segments;
	while (!(SPSR & _BV(SPIF)))
		;
	PORTB |= _BV(2);
	PORTB &= ~_BV(2);
}

int main(void)
{
	uint8_t code = 0;

	DDRB = _BV(2) | _BV(3) | _BV(5);
	SPCR = _BV(SPE) | _BV(MSTR);
	TCCR1B = _BV(WGM12) | _BV(CS11) | _BV(CS10);
	OCR1A = 18749;
	show(font[code]);
	for (;;) {
		if (!(TIFR1 & _BV(OCF1A)))
			continue;
		TIFR1 = _BV(OCF1A);
		code = (code + 1) & 15;
		show(font[code]);
	}
}
