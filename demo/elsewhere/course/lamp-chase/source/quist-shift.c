#include <avr/io.h>
#include <util/delay.h>

#define DATA  PD3
#define SHIFT PD4
#define LATCH PD5

static void out(uint8_t lamps)
{
	for (int8_t i = 7; i >= 0; i--) {
		if (lamps & (1 << i))
			PORTD |= 1 << DATA;
		else
			PORTD &= ~(1 << DATA);
		PORTD |= 1 << SHIFT;
		PORTD &= ~(1 << SHIFT);
	}
	PORTD |= 1 << LATCH;
	PORTD &= ~(1 << LATCH);
}

int main(void)
{
	uint8_t lamps = 0x03;

	DDRD = (1 << DATA) | (1 << SHIFT) | (1 << LATCH);
	PORTC = 1 << PC2;
	while (1) {
		out(lamps);
		for (uint8_t t = 0; t < 40; ) {
			_delay_ms(5);
			if (PINC & (1 << PC2))
				t++;
		}
		if (lamps == 0xc0)
			lamps = 0x03;
		else
			lamps <<= 1;
	}
}
