/* The display's instructions, by way of the expander: P0 RS, P1 RW, P2 E, P3 backlight, P4 to P7 data. */
#include <avr/io.h>
#include <util/delay.h>

#define LIGHT 0x08

static void expander(uint8_t v); /* writes its eight pins */

static void nibble(uint8_t high, uint8_t rs)
{
	uint8_t v = (high & 0xf0) | LIGHT | rs;

	expander(v | 0x04);
	expander(v);
}

static void send(uint8_t v, uint8_t rs)
{
	nibble(v, rs);
	nibble(v << 4, rs);
}

static void begin(void)
{
	_delay_ms(60);
	for (uint8_t i = 0; i < 3; i++) {
		nibble(0x30, 0);
		_delay_ms(6);
	}
	nibble(0x20, 0);
	send(0x28, 0);
	send(0x0c, 0);
	send(0x01, 0);
	_delay_ms(3);
	send(0x06, 0);
}

static void row(uint8_t address, const char *text)
{
	send(0x80 | address, 0);
	while (*text)
		send(*text++, 1);
}
