/* Eight digits behind a MAX7219 on the SPI, load at PB2. */
#include <avr/io.h>

static void put(uint8_t address, uint8_t v)
{
	SPDR = address;
	while (!(SPSR & _BV(SPIF)))
		;
	SPDR = v;
	while (!(SPSR & _BV(SPIF)))
		;
	PORTB |= _BV(2);
	PORTB &= ~_BV(2);
}

static void dial_begin(void)
{
	DDRB = _BV(2) | _BV(3) | _BV(5);
	SPCR = _BV(SPE) | _BV(MSTR);
	put(15, 0);
	put(9, 0xff);
	put(11, 7);
	put(10, 8);
	for (uint8_t i = 1; i <= 8; i++)
		put(i, 15);
	put(12, 1);
}

static void dial_show(uint8_t percent)
{
	put(1, percent % 10);
	put(2, percent < 10 ? 15 : percent / 10);
}
