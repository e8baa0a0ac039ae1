#include <avr/io.h>

static void lamps(uint16_t pattern)
{
	PORTD = pattern & 0xff;
	PORTB = (PORTB & ~0x03) | (pattern >> 8 & 0x03);
}

int main(void)
{
	DDRD = 0xff;
	DDRB = 0x13;
	ADMUX = _BV(REFS0) | 2;
	ADCSRA = _BV(ADEN) | _BV(ADPS2) | _BV(ADPS1) | _BV(ADPS0);
	while (1) {
		uint16_t pattern = 0;
		uint8_t n = 0;

		ADCSRA |= _BV(ADSC);
		while (ADCSRA & _BV(ADSC))
			;
		for (uint32_t v = (uint32_t)ADC * 5000 / 1024; v >= 500; v -= 500) {
			pattern = pattern << 1 | 1;
			n++;
		}
		lamps(pattern);
		if (n >= 8)
			PORTB |= _BV(PB4);
		else
			PORTB &= ~_BV(PB4);
	}
}
