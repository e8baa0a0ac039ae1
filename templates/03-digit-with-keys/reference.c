#include <avr/io.h>
#include <util/delay.h>

static const uint8_t figure[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

/* pressed tells once of each press: the contact has to rest for 20 ms. */
static uint8_t pressed(void)
{
	static uint8_t down, last, rest;
	uint8_t now = ~PINC & 0x03, begun = 0;
	if (now != last) {
		last = now;
		rest = 0;
	} else if (rest < 20 && ++rest == 20) {
		begun = now & ~down;
		down = now;
	}
	return begun;
}

int main(void)
{
	uint8_t height = 0;
	DDRD = 0x7f;
	PORTC = 0x03;
	for (;;) {
		uint8_t keys = pressed();
		if (keys & 1 && height < 9)
			height++;
		if (keys & 2 && height > 0)
			height--;
		PORTD = figure[height];
		_delay_ms(1);
	}
}
