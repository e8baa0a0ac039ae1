#include <avr/io.h>
#include <util/delay.h>

static void pulse(uint8_t pin)
{
	PORTB |= _BV(pin);
	_delay_us(2);
	PORTB &= ~_BV(pin);
}

int main(void)
{
	DDRB = _BV(PB0) | _BV(PB1);
	PORTD = _BV(PD2);
	pulse(PB1);
	for (;;) {
		while (PIND & _BV(PD2))
			;
		pulse(PB0);
		_delay_ms(20);
		while (!(PIND & _BV(PD2)))
			;
		_delay_ms(20);
	}
}
