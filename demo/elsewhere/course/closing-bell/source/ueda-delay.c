#include <avr/io.h>
#include <util/delay.h>

static void tone660(void)
{
	for (int i = 0; i < 528; i++) {
		PORTB ^= (1 << PB1);
		_delay_us(757);
	}
	PORTB &= ~(1 << PB1);
}

static void tone440(void)
{
	for (int i = 0; i < 528; i++) {
		PORTB ^= (1 << PB1);
		_delay_us(1136);
	}
	PORTB &= ~(1 << PB1);
}

int main(void)
{
	DDRB |= (1 << PB1);
	DDRC |= (1 << PC5);
	PORTD |= (1 << PD3);
	_delay_ms(1); // the pull-up needs a moment
	while (PIND & (1 << PD3))
		;
	PORTC |= (1 << PC5);
	tone660();
	tone440();
	_delay_ms(200);
	tone660();
	tone440();
	PORTC &= ~(1 << PC5);
	while (1)
		;
}
