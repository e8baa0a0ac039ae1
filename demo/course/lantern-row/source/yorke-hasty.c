/* The row along the quay. */
#include <avr/io.h>
#include <util/delay.h>

int main(void)
{
	DDRB = 0x1f;
	for (;;) {
		for (uint8_t i = 0; i < 4; i++) {
			PORTB = 1 << i;
			_delay_ms(100);
		}
		for (uint8_t i = 4; i > 0; i--) {
			PORTB = 1 << i;
			_delay_ms(100);
		}
	}
}
