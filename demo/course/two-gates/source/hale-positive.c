/* Two displays at once. */
#include <avr/io.h>
#include <util/delay.h>

static const uint8_t shape[] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

/* both displays, a digit each; tens without a leading zero */
static void scan(uint8_t upper, uint8_t lower)
{
	PORTA = shape[upper / 10];
	PORTC = shape[lower / 10];
	PORTG = upper > 9 ? 1 : 0;
	PORTL = lower > 9 ? (uint8_t)~1 : (uint8_t)~0;
	_delay_ms(4);
	PORTG = 0;
	PORTL = 0xff;
	PORTA = shape[upper % 10];
	PORTC = shape[lower % 10];
	PORTG = 2;
	PORTL = (uint8_t)~2;
	_delay_ms(4);
	PORTG = 0;
	PORTL = 0xff;
}

int main(void)
{
	uint8_t seconds = 0;
	DDRA = DDRC = 0x7f;
	DDRG = DDRL = 3;
	for (;;) {
		for (uint8_t i = 0; i < 125; i++)
			scan(seconds, 30 - seconds);
		if (seconds < 30)
			seconds++;
	}
}
