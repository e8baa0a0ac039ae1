#include <avr/io.h>
#include <util/delay.h>

#define red_on() (PORTC &= ~(1 << PC1))
#define red_off() (PORTC |= (1 << PC1))
#define amber_on() (PORTC &= ~(1 << PC2))
#define amber_off() (PORTC |= (1 << PC2))
#define green_on() (PORTC &= ~(1 << PC3))
#define green_off() (PORTC |= (1 << PC3))
#define ringing() (!(PINB & (1 << PB4)))

int main(void)
{
	DDRC |= (1 << PC1) | (1 << PC2) | (1 << PC3);
	PORTB |= (1 << PB4);
	red_off();
	amber_off();
	green_on();
	while (1) {
		while (!ringing())
			;
		green_off();
		amber_on();
		_delay_ms(800);
		amber_off();
		red_on();
		_delay_ms(2000);
		amber_on();
		_delay_ms(600);
		red_off();
		amber_off();
		green_on();
	}
}
