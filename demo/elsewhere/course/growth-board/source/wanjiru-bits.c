#include <avr/io.h>
#include <util/delay.h>

#define DIN 2
#define LOAD 3
#define CLK 4

static const uint8_t pictures[3][8] = {
	{0x00, 0x00, 0x00, 0x00, 0x00, 0x18, 0x3c, 0x18},
	{0x00, 0x00, 0x60, 0x70, 0x16, 0x1c, 0x10, 0x38},
	{0x28, 0x7c, 0x38, 0x10, 0x50, 0x34, 0x18, 0x38},
};

static void out(uint8_t b)
{
	for (uint8_t m = 0x80; m; m >>= 1) {
		if (b & m)
			PORTD |= _BV(DIN);
		else
			PORTD &= ~_BV(DIN);
		PORTD |= _BV(CLK);
		PORTD &= ~_BV(CLK);
	}
}

static void set(uint8_t reg, uint8_t value)
{
	PORTD &= ~_BV(LOAD);
	out(reg);
	out(value);
	PORTD |= _BV(LOAD);
}

static void picture(const uint8_t *rows)
{
	for (uint8_t r = 0; r < 8; r++)
		set(r + 1, rows[r]);
}

int main(void)
{
	DDRD = _BV(DIN) | _BV(LOAD) | _BV(CLK);
	set(0x0f, 0);
	set(0x09, 0);
	set(0x0a, 7);
	set(0x0b, 7);
	picture(pictures[0]);
	set(0x0c, 1);
	for (;;) {
		_delay_ms(700);
		picture(pictures[1]);
		_delay_ms(700);
		picture(pictures[2]);
		_delay_ms(700);
		picture(pictures[0]);
	}
}
