/* From the end of the quay. */
#include <avr/io.h>
#include <util/delay.h>

int main(void)
{
	DDRB = 0x1f;
	for (;;) {
		for (uint8_t i = 0; i < 4; i++) {
			PORTB = 0x10 >> i;
			_delay_ms(200);
		}
		for (uint8_t i = 4; i > 0; i--) {
			PORTB = 0x10 >> i;
			_delay_ms(200);
		}
	}
}
