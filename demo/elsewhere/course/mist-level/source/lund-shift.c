#define F_CPU 16000000UL
#include <avr/io.h>
#include <util/delay.h>

#define MORE PB0
#define LESS PB1
#define STOP PB2
#define MOST 6

static void bar(uint8_t level)
{
	uint8_t lamps = 0;
	for (uint8_t i = 0; i < level; i++)
		lamps = lamps << 1 | 4;
	PORTD = ~lamps;
}

int main(void)
{
	uint8_t level = 2, last = 0;
	PORTB = (1 << MORE) | (1 << LESS) | (1 << STOP);
	PORTD = 0xff;
	DDRD = 0xfc;
	bar(level);
	for (;;) {
		uint8_t keys = ~PINB & 7;
		uint8_t fresh = keys & ~last;
		last = keys;
		if (fresh & (1 << MORE)) {
			if (level < MOST)
				level++;
		}
		if (fresh & (1 << LESS)) {
			if (level > 0)
				level--;
		}
		if (fresh & (1 << STOP))
			level = 0;
		bar(level);
		_delay_ms(15);
	}
}
