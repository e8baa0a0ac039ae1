#include <avr/io.h>
#include <util/delay.h>

#define RS PC0
#define E PC1

static void nibble(uint8_t n)
{
	PORTC = (PORTC & 0x03) | (n << 2);
	PORTC |= _BV(E);
	_delay_us(1);
	PORTC &= ~_BV(E);
	_delay_us(60);
}

static void lcd_byte(uint8_t b, uint8_t data)
{
	if (data)
		PORTC |= _BV(RS);
	else
		PORTC &= ~_BV(RS);
	nibble(b >> 4);
	nibble(b & 0x0f);
}

static void lcd_command(uint8_t c)
{
	lcd_byte(c, 0);
	if (c < 4)
		_delay_ms(3);
}

static void lcd_text(const char *s)
{
	while (*s)
		lcd_byte(*s++, 1);
}

static void lcd_goto(uint8_t row, uint8_t column)
{
	lcd_command(0x80 | (row ? 0x40 : 0) | column);
}

static const uint8_t leaf[8] = {0x04, 0x0e, 0x1f, 0x0e, 0x04, 0x04, 0x08, 0x00};
static const char *const houses[3] = {"Cactus house", "Ferns       ", "Orchids     "};

int main(void)
{
	DDRC = 0x3f;
	_delay_ms(40);
	nibble(3);
	_delay_ms(5);
	nibble(3);
	_delay_us(200);
	nibble(3);
	nibble(2);
	lcd_command(0x28);
	lcd_command(0x08);
	lcd_command(0x01);
	lcd_command(0x06);
	lcd_command(0x0c);
	lcd_command(0x40);
	for (uint8_t i = 0; i < 8; i++)
		lcd_byte(leaf[i], 1);
	lcd_goto(0, 0);
	lcd_text("Farrow Hill");
	lcd_goto(0, 15);
	lcd_byte(0, 1);
	for (uint8_t h = 0;; h = (h + 1) % 3) {
		lcd_goto(1, 0);
		lcd_text(houses[h]);
		_delay_ms(1200 - 1);
	}
}
