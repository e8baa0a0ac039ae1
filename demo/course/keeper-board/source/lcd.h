/* A small driver for a character LCD in 4-bit mode: RS PB0, RW PB1, E PB2, data at PD4 to PD7. */
#include <avr/io.h>
#include <stdint.h>
#include <util/delay.h>

static void lcd_nibble(uint8_t high)
{
	PORTD = (PORTD & 0x0f) | (high & 0xf0);
	PORTB |= _BV(2);
	_delay_us(1);
	PORTB &= ~_BV(2);
	_delay_us(1);
}

static void lcd_send(uint8_t v, uint8_t data)
{
	if (data)
		PORTB |= _BV(0);
	else
		PORTB &= ~_BV(0);
	lcd_nibble(v);
	lcd_nibble(v << 4);
	_delay_us(80);
}

static void lcd_command(uint8_t v)
{
	lcd_send(v, 0);
#ifndef NO_CLEAR_WAIT
	if (v < 4)
		_delay_ms(3);
#endif
}

static void lcd_text(const char *s)
{
	while (*s)
		lcd_send(*s++, 1);
}

static void lcd_begin(void)
{
	DDRB |= 7;
	DDRD |= 0xf0;
	_delay_ms(50);
	for (uint8_t i = 0; i < 3; i++) {
		lcd_nibble(0x30);
		_delay_ms(5);
	}
	lcd_nibble(0x20);
	_delay_us(100);
	lcd_command(0x28);
	lcd_command(0x0c);
	lcd_command(0x01);
	lcd_command(0x06);
}

static const uint8_t boat[] = {0x04, 0x06, 0x07, 0x04, 0x1f, 0x0e, 0x00, 0x00};

static void lcd_boat(void)
{
	lcd_command(0x40);
	for (uint8_t i = 0; i < 8; i++)
		lcd_send(boat[i], 1);
}
