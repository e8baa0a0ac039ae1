/* Two bytes into a shift register by hand, then its latch: a number that counts. */
#include <avr/io.h>
#include <stdint.h>

static const uint8_t shapes[10] = { 63, 6, 91, 79, 102, 109, 125, 7, 127, 111 };

static void send(uint8_t v)
{
	for (uint8_t i = 0; i < 8; i++, v <<= 1) {
		if (v & 0x80)
			PORTB |= 1 << PB0;
		else
			PORTB &= ~(1 << PB0);
		PORTB |= 1 << PB1;
		PORTB &= ~(1 << PB1);
	}
}

int main(void)
{
	DDRB = 7;
	for (uint8_t n = 0;; n = n < 99 ? n + 1 : 0) {
		send(shapes[n / 10]);
		send(shapes[n % 10]);
		PORTB |= 1 << PB2;
		PORTB &= ~(1 << PB2);
	}
}
