/* Q. Selby: takes the bar for four of the whole range. */
#include <avr/interrupt.h>
#include <avr/io.h>

static volatile uint16_t latest;
static volatile uint8_t alarm;

ISR(ADC_vect) { latest = ADC; }

ISR(TIMER2_COMPA_vect)
{
	if (alarm)
		PINB = _BV(1);
	else
		PORTB &= ~_BV(1);
}

int main(void)
{
	DDRB = _BV(0) | _BV(1);
	DDRD = 0xf0;
	ADMUX = _BV(REFS0);
	ADCSRA = _BV(ADEN) | _BV(ADSC) | _BV(ADATE) | _BV(ADIE) | 7;
	TCCR2A = _BV(WGM21);
	TCCR2B = _BV(CS22);
	OCR2A = 141;
	TIMSK2 = _BV(OCIE2A);
	sei();
	for (;;) {
		cli();
		uint16_t now = latest;
		sei();
		uint8_t bar = 0;
		for (uint8_t i = 0; i < 4; i++)
			if (now >= 256 * (i + 1))
				bar |= 0x10 << i;
		PORTD = bar;
		if (now >= 615)
			alarm = 1;
		else if (now < 573)
			alarm = 0;
		if (alarm)
			PORTB |= _BV(0);
		else
			PORTB &= ~_BV(0);
	}
}
