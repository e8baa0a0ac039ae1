#include <avr/io.h>
#include <stdint.h>
#include <stdlib.h>
#include <util/delay.h>

/* ---- display ---- */

#define LCD_CTRL PORTD
#define LCD_RS (1 << 2)
#define LCD_RW (1 << 3)
#define LCD_E (1 << 4)

static void lcd_pulse(void)
{
	LCD_CTRL |= LCD_E;
	_delay_us(1);
	LCD_CTRL &= ~LCD_E;
	_delay_us(1);
}

static void lcd_put(uint8_t value)
{
	PORTB = (PORTB & 0xf0) | (value >> 4);
	lcd_pulse();
	PORTB = (PORTB & 0xf0) | (value & 0x0f);
	lcd_pulse();
	_delay_us(45);
}

static void lcd_cmd(uint8_t value)
{
	LCD_CTRL &= ~LCD_RS;
	lcd_put(value);
}

static void lcd_chr(char c)
{
	LCD_CTRL |= LCD_RS;
	lcd_put(c);
}

static void lcd_str(const char *s)
{
	while (*s)
		lcd_chr(*s++);
}

static void lcd_clear(void)
{
	lcd_cmd(0x01);
	_delay_ms(2);
}

static void lcd_init(void)
{
	DDRB |= 0x0f;
	DDRD |= LCD_RS | LCD_RW | LCD_E;
	_delay_ms(50);
	PORTB = 0x03;
	lcd_pulse();
	_delay_ms(5);
	lcd_pulse();
	_delay_ms(1);
	lcd_pulse();
	_delay_ms(1);
	PORTB = 0x02;
	lcd_pulse();
	_delay_us(100);
	lcd_cmd(0x28);
	lcd_cmd(0x0c);
	lcd_cmd(0x06);
	lcd_clear();
}

/* ---- numbers ---- */

static void lcd_number(uint8_t n)
{
	char text[4];
	utoa(n, text, 10);
	if (n < 100)
		lcd_chr(' ');
	if (n < 10)
		lcd_chr(' ');
	lcd_str(text);
}

static void line(uint8_t address, const char *name, uint8_t n)
{
	lcd_cmd(0x80 | address);
	lcd_str(name);
	lcd_number(n);
}

/* ---- keys ---- */

static uint8_t keys_old;

static uint8_t keys_pressed(void)
{
	static uint8_t last, count;
	uint8_t now = ~PINC & 0x07;
	uint8_t down = 0;
	if (now != last) {
		last = now;
		count = 0;
	} else if (count < 10) {
		if (++count == 10) {
			down = now & ~keys_old;
			keys_old = now;
		}
	}
	return down;
}

/* ---- program ---- */

int main(void)
{
	uint8_t tomato = 0, pepper = 0;
	PORTC = 0x07;
	DDRD |= 1 << 7;
	lcd_init();
	line(0x00, "Tomato: ", tomato);
	line(0x40, "Pepper: ", pepper);
	for (;;) {
		uint8_t k = keys_pressed();
		if (k & 1) {
			tomato++;
			line(0x00, "Tomato: ", tomato);
		}
		if (k & 2) {
			pepper++;
			line(0x40, "Pepper: ", pepper);
		}
		if (k & 4) {
			lcd_clear();
			line(0x00, "Total:  ", tomato + pepper);
			_delay_ms(2000);
			tomato = 0;
			pepper = 0;
			line(0x00, "Tomato: ", tomato);
			line(0x40, "Pepper: ", pepper);
		}
		if (tomato + pepper >= 5)
			PORTD |= 1 << 7;
		else
			PORTD &= ~(1 << 7);
		_delay_ms(2);
	}
}
