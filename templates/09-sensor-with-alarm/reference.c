#include <avr/io.h>
#include <util/delay.h>

static uint16_t centimetres(void)
{
	ADCSRA |= _BV(ADSC);
	loop_until_bit_is_clear(ADCSRA, ADSC);
	return ADC * 500UL / 1024;
}

static void horn(uint8_t on)
{
	if (on) {
		TCCR1A = _BV(COM1A0);
	} else {
		TCCR1A = 0;
		PORTB &= ~_BV(PB1);
	}
}

int main(void)
{
	DDRD = _BV(PD7);
	DDRB = _BV(PB1);
	ADMUX = _BV(REFS0);
	ADCSRA = _BV(ADEN) | _BV(ADPS2) | _BV(ADPS1) | _BV(ADPS0);
	OCR1A = 999;
	TCCR1B = _BV(WGM12) | _BV(CS11);
	for (;;) {
		uint16_t level = centimetres();
		uint8_t good = level >= 150 && level < 350;
		if (good)
			PORTD |= _BV(PD7);
		else
			PORTD &= ~_BV(PD7);
		horn(!good);
		_delay_ms(20);
	}
}
