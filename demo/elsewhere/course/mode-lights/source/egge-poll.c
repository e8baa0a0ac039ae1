#define F_CPU 8000000UL
#include <avr/io.h>
#include <util/delay.h>

#define L1 (1 << 1)
#define L2 (1 << 2)
#define L3 (1 << 3)
#define L4 (1 << 4)
#define ALL (L1 | L2 | L3 | L4)

int main(void)
{
	unsigned char mode = 0, was = 0, running = L1;
	unsigned int ticks = 0;

	DDRB = ALL;
	PORTD = 1 << 6;
	while (1) {
		unsigned char down = !(PIND & (1 << 6));
		if (down && !was) {
			mode++;
			if (mode == 5)
				mode = 0;
			running = L1;
			ticks = 0;
		}
		was = down;
		if (mode == 0)
			PORTB = 0;
		if (mode == 1)
			PORTB = L1 | L4;
		if (mode == 2)
			PORTB = L2 | L3;
		if (mode == 3)
			PORTB = ALL;
		if (mode == 4) {
			PORTB = running;
			if (++ticks == 20) {
				ticks = 0;
				running <<= 1;
				if (running > L4)
					running = L1;
			}
		}
		_delay_ms(10);
	}
}
