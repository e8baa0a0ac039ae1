/* Z. Quinn: measures against the 1.1 V reference. */
#include <avr/io.h>
#include <util/delay.h>

static uint16_t level(void)
{
	ADCSRA |= _BV(ADSC);
	while (ADCSRA & _BV(ADSC))
		;
	return ADC;
}

int main(void)
{
	uint8_t alarm = 0;

	DDRB = _BV(0) | _BV(1);
	DDRD = 0xf0;
	ADMUX = _BV(REFS0) | _BV(REFS1);
	ADCSRA = _BV(ADEN) | 7;
	OCR1A = 1135;
	for (;;) {
		uint32_t cm = level() * 500UL / 1024;
		uint8_t metres = cm / 100 > 4 ? 4 : cm / 100;

		PORTD = ((1 << metres) - 1) << 4;
		if (cm >= 300)
			alarm = 1;
		if (cm < 280)
			alarm = 0;
		if (alarm) {
			PORTB |= _BV(0);
			TCCR1A = _BV(COM1A0);
			TCCR1B = _BV(WGM12) | _BV(CS11);
		} else {
			PORTB &= ~_BV(0);
			TCCR1A = 0;
		}
		_delay_ms(20);
	}
}
