#include <avr/io.h>
#include <string.h>
#include <util/delay.h>
#include <util/twi.h>

#define COLUMNS 128
#define PAGES 8

static uint8_t buffer[PAGES][COLUMNS];

static const uint8_t letters[][6] = {
	{' ', 0x00, 0x00, 0x00, 0x00, 0x00},
	{'0', 0x3e, 0x51, 0x49, 0x45, 0x3e},
	{'1', 0x00, 0x42, 0x7f, 0x40, 0x00},
	{'2', 0x42, 0x61, 0x51, 0x49, 0x46},
	{'3', 0x21, 0x41, 0x45, 0x4b, 0x31},
	{'4', 0x18, 0x14, 0x12, 0x7f, 0x10},
	{'A', 0x7e, 0x11, 0x11, 0x11, 0x7e},
	{'E', 0x7f, 0x49, 0x49, 0x49, 0x41},
	{'H', 0x7f, 0x08, 0x08, 0x08, 0x7f},
	{'P', 0x7f, 0x09, 0x09, 0x09, 0x06},
	{'R', 0x7f, 0x09, 0x19, 0x29, 0x46},
	{'S', 0x46, 0x49, 0x49, 0x49, 0x31},
	{'T', 0x01, 0x01, 0x7f, 0x01, 0x01},
};

static void i2c_go(uint8_t bits)
{
	TWCR = _BV(TWEN) | _BV(TWINT) | bits;
	loop_until_bit_is_set(TWCR, TWINT);
}

static void i2c_begin(uint8_t control)
{
	i2c_go(_BV(TWSTA));
	TWDR = 0x3c << 1;
	i2c_go(0);
	TWDR = control;
	i2c_go(0);
}

static void i2c_byte(uint8_t b)
{
	TWDR = b;
	i2c_go(0);
}

static void i2c_end(void)
{
	TWCR = _BV(TWEN) | _BV(TWINT) | _BV(TWSTO);
	loop_until_bit_is_clear(TWCR, TWSTO);
}

static void command(uint8_t c)
{
	i2c_begin(0x00);
	i2c_byte(c);
	i2c_end();
}

static void flush(void)
{
	command(0x21);
	command(0);
	command(COLUMNS - 1);
	command(0x22);
	command(0);
	command(PAGES - 1);
	i2c_begin(0x40);
	for (uint8_t p = 0; p < PAGES; p++)
		for (uint8_t c = 0; c < COLUMNS; c++)
			i2c_byte(buffer[p][c]);
	i2c_end();
}

static void text(uint8_t page, const char *s)
{
	uint8_t x = 0;
	while (*s) {
		for (uint8_t i = 0; i < sizeof letters / sizeof letters[0]; i++)
			if (letters[i][0] == (uint8_t)*s)
				memcpy(&buffer[page][x], &letters[i][1], 5);
		x += 6;
		s++;
	}
}

static void draw(uint8_t step)
{
	char line[] = "STEP 0";
	line[5] += step;
	memset(buffer, 0, sizeof buffer);
	text(0, "HEATER");
	text(1, line);
	flush();
}

int main(void)
{
	static const uint8_t setup[] = {
		0xae, 0xd5, 0x80, 0xa8, 0x3f, 0xd3, 0x00, 0x40, 0x8d, 0x14, 0x20, 0x00,
		0xa1, 0xc8, 0xda, 0x12, 0x81, 0x9f, 0xd9, 0xf1, 0xdb, 0x40, 0xa4, 0xa6,
	};
	uint8_t step = 0;
	uint8_t old = 3;
	int8_t quarter = 0;
	static const int8_t moved[16] = {0, 1, -1, 0, -1, 0, 0, 1, 1, 0, 0, -1, 0, -1, 1, 0};

	PORTD = _BV(PD2) | _BV(PD3);
	DDRB = _BV(PB0);
	TWBR = 12;
	for (uint8_t i = 0; i < sizeof setup; i++)
		command(setup[i]);
	draw(step);
	command(0xaf);
	for (;;) {
		uint8_t now = PIND >> PD2 & 3;
		quarter += moved[old << 2 | now];
		old = now;
		if (now == 3) {
			if (quarter >= 3 && step < 4) {
				step++;
				draw(step);
			}
			if (quarter <= -3 && step > 0) {
				step--;
				draw(step);
			}
			quarter = 0;
		}
		if (step >= 1)
			PORTB |= _BV(PB0);
		else
			PORTB &= ~_BV(PB0);
	}
}
