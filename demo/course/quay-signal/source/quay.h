/* Two digits and three lamps. */
#include <avr/io.h>
#include <util/delay.h>

#define GREEN _BV(0)
#define AMBER _BV(1)
#define RED _BV(2)

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static void begin(void)
{
	DDRD = 0xff;
	DDRB = 0x3f;
	DDRC = GREEN | AMBER | RED;
}

/* Puts two patterns on the digits. */
static void put(uint8_t tens, uint8_t ones)
{
	PORTD = (tens & 0x7f) | (ones & 0x40) << 1;
	PORTB = ones & 0x3f;
}
