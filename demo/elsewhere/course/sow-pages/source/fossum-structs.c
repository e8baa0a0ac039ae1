#include <avr/io.h>
#include <stdio.h>
#define F_CPU 8000000UL
#include <util/delay.h>

#define RS PC0
#define RW PC1
#define EN PC2

struct page {
	const char *plant;
	uint8_t days;
	uint8_t warmth;
};

static const struct page pages[] = {
	{"Basil", 8, 22},
	{"Lettuce", 14, 18},
	{"Pepper", 21, 25},
	{"Spinach", 9, 12},
	{"Tomato", 7, 24},
};

#define COUNT ((uint8_t)(sizeof pages / sizeof pages[0]))

static void lcd_nibble(uint8_t high)
{
	PORTD = (PORTD & 0x0f) | (high & 0xf0);
	PORTC |= _BV(EN);
	_delay_us(1);
	PORTC &= ~_BV(EN);
	_delay_us(50);
}

static void lcd_write(uint8_t byte, uint8_t data)
{
	if (data)
		PORTC |= _BV(RS);
	else
		PORTC &= ~_BV(RS);
	lcd_nibble(byte);
	lcd_nibble(byte << 4);
}

static void lcd_row(uint8_t row, const char *text)
{
	lcd_write(0x80 | (row ? 0x40 : 0x00), 0);
	for (uint8_t i = 0; i < 16; i++)
		lcd_write(*text ? *text++ : ' ', 1);
}

static void show(uint8_t n)
{
	char row[20];
	const struct page *p = &pages[n];

	snprintf(row, sizeof row, "%u/%u %s", n + 1, COUNT, p->plant);
	lcd_row(0, row);
	snprintf(row, sizeof row, "%-2u days   %2u C", p->days, p->warmth);
	if (p->days < 10)
		snprintf(row, sizeof row, "%u days    %2u C", p->days, p->warmth);
	lcd_row(1, row);
}

static uint8_t pressed(void)
{
	static uint8_t was;
	uint8_t is = ~PINB & 0x07;
	uint8_t fresh = is & ~was;

	was = is;
	return fresh;
}

int main(void)
{
	uint8_t n = 0;

	DDRC = _BV(RS) | _BV(RW) | _BV(EN);
	DDRD = 0xf0;
	PORTB = 0x07;

	_delay_ms(50);
	lcd_nibble(0x30);
	_delay_ms(5);
	lcd_nibble(0x30);
	_delay_us(200);
	lcd_nibble(0x30);
	lcd_nibble(0x20);
	lcd_write(0x28, 0);
	lcd_write(0x0c, 0);
	lcd_write(0x06, 0);
	lcd_write(0x01, 0);
	_delay_ms(2);

	show(n);
	for (;;) {
		uint8_t keys = pressed();

		if (keys & 0x01)
			n = n + 1 < COUNT ? n + 1 : 0;
		else if (keys & 0x02)
			n = n > 0 ? n - 1 : COUNT - 1;
		else if (keys & 0x04)
			n = 0;
		if (keys)
			show(n);
		_delay_ms(15);
	}
}
