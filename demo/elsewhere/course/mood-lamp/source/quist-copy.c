#include <avr/io.h>
#include <util/delay.h>

int main(void)
{
	DDRB |= (1 << PB1) | (1 << PB2) | (1 << PB3);
	PORTB |= (1 << PB1) | (1 << PB2) | (1 << PB3);
	while (1) {
		// red
		PORTB &= ~(1 << PB1);
		PORTB |= (1 << PB2);
		PORTB |= (1 << PB3);
		_delay_ms(600);
		// yellow
		PORTB &= ~(1 << PB1);
		PORTB &= ~(1 << PB2);
		PORTB |= (1 << PB3);
		_delay_ms(600);
		// green
		PORTB |= (1 << PB1);
		PORTB &= ~(1 << PB2);
		PORTB |= (1 << PB3);
		_delay_ms(600);
		// cyan
		PORTB |= (1 << PB1);
		PORTB &= ~(1 << PB2);
		PORTB &= ~(1 << PB3);
		_delay_ms(600);
		// blue
		PORTB |= (1 << PB1);
		PORTB |= (1 << PB2);
		PORTB &= ~(1 << PB3);
		_delay_ms(600);
		// dark
		PORTB |= (1 << PB1);
		PORTB |= (1 << PB2);
		PORTB |= (1 << PB3);
		_delay_ms(400);
	}
}
