#include <avr/io.h>
#include <util/delay.h>

#define LIGHT PD5
#define SOON  PD6

int main(void)
{
	uint16_t left = 0; /* in steps of 10 ms */
	uint8_t down = 0;

	DDRD = (1 << LIGHT) | (1 << SOON);
	PORTB = 1 << PB0;
	for (;;) {
		uint8_t now = !(PINB & (1 << PB0));
		if (now && !down)
			left = 300;
		down = now;
		if (left > 0) {
			left--;
			PORTD |= 1 << LIGHT;
			if (left < 100)
				PORTD |= 1 << SOON;
			else
				PORTD &= ~(1 << SOON);
		} else {
			PORTD &= ~((1 << LIGHT) | (1 << SOON));
		}
		_delay_ms(10);
	}
}
