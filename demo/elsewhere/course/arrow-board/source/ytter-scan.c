#include <avr/io.h>
#include <util/delay.h>

/* A row for each byte, its left end in the highest bit. */
static const uint8_t to_left[8] = {0x10, 0x30, 0x7f, 0xff, 0x7f, 0x30, 0x10, 0x00};
static const uint8_t to_right[8] = {0x08, 0x0c, 0xfe, 0xff, 0xfe, 0x0c, 0x08, 0x00};
static const uint8_t cross[8] = {0x81, 0x42, 0x24, 0x18, 0x18, 0x24, 0x42, 0x81};

static uint8_t turned(uint8_t b)
{
	uint8_t r = 0;
	for (uint8_t i = 0; i < 8; i++)
		if (b & (1 << i))
			r |= 0x80 >> i;
	return r;
}

int main(void)
{
	const uint8_t *picture = to_left;

	DDRD = 0xff;
	DDRB = 0x3f;
	DDRC = 0x03;
	PORTC = 0x1c;
	while (1) {
		for (uint8_t row = 0; row < 8; row++) {
			uint8_t columns = ~turned(picture[row]);
			PORTD = 0;
			PORTB = columns & 0x3f;
			PORTC = 0x1c | columns >> 6;
			PORTD = 1 << row;
			_delay_ms(1);
		}
		if (!(PINC & (1 << PC2)))
			picture = to_left;
		if (!(PINC & (1 << PC3)))
			picture = to_right;
		if (!(PINC & (1 << PC4)))
			picture = cross;
	}
}
