#include <avr/io.h>
#include <util/delay.h>

static const uint8_t figure[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

int main(void)
{
	DDRD = 0x7f;
	for (uint8_t n = 0;; n = (n + 1) % 10) {
		PORTD = figure[n];
		_delay_ms(500);
	}
}
