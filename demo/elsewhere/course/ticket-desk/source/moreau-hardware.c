#include <avr/io.h>
#include <util/delay.h>

#define DECODE 0x09
#define INTENSITY 0x0a
#define SCAN_LIMIT 0x0b
#define SHUTDOWN 0x0c
#define TEST 0x0f
#define BLANK 0x0f

static const char layout[4][5] = {"123A", "456B", "789C", "*0#D"};

static uint8_t entry[4];
static uint8_t used;

static void spi(uint8_t b)
{
	SPDR = b;
	while (!(SPSR & _BV(SPIF)))
		;
}

static void driver(uint8_t reg, uint8_t value)
{
	PORTB &= ~_BV(PB2);
	spi(reg);
	spi(value);
	PORTB |= _BV(PB2);
}

static void show(void)
{
	for (uint8_t i = 0; i < 8; i++)
		driver(i + 1, i < used ? entry[i] : BLANK);
	if (used == 0)
		driver(1, 0);
}

static char scan(void)
{
	for (uint8_t row = 0; row < 4; row++) {
		PORTD = 0xff & ~_BV(row);
		DDRD = _BV(row);
		_delay_us(20);
		for (uint8_t column = 0; column < 4; column++)
			if (!(PIND & _BV(4 + column)))
				return layout[row][column];
	}
	return 0;
}

static void type(char key)
{
	if (key == '*') {
		used = 0;
	} else if (key >= '0' && key <= '9') {
		if (used == 4)
			return;
		for (uint8_t i = used; i > 0; i--)
			entry[i] = entry[i - 1];
		entry[0] = key - '0';
		used++;
	}
	show();
}

int main(void)
{
	char last = 0;

	DDRB = _BV(PB2) | _BV(PB3) | _BV(PB5);
	SPCR = _BV(SPE) | _BV(MSTR) | _BV(SPR0);
	driver(TEST, 0);
	driver(DECODE, 0xff);
	driver(SCAN_LIMIT, 7);
	driver(INTENSITY, 8);
	show();
	driver(SHUTDOWN, 1);
	for (;;) {
		char key = scan();
		if (key != last) {
			_delay_ms(10);
			if (scan() != key)
				continue;
			last = key;
			if (key)
				type(key);
		}
	}
}
