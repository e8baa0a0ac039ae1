#define F_CPU 8000000UL
#include <avr/io.h>
#include <util/delay.h>

unsigned char count = 0;

unsigned char out_down(void) { return !(PINC & (1 << 4)); }
unsigned char clear_down(void) { return !(PINC & (1 << 5)); }

int main(void)
{
	DDRD = 0xFF;
	DDRC = 0x00;
	PORTC = (1 << 4) | (1 << 5);
	PORTD = count;

	for (;;) {
		if (out_down()) {
			_delay_ms(20);
			if (out_down()) {
				count = count + 1;
				PORTD = count;
				while (out_down());
				_delay_ms(20);
			}
		}
		if (clear_down()) {
			_delay_ms(20);
			count = 0;
			PORTD = count;
			while (clear_down());
			_delay_ms(20);
		}
	}
}
