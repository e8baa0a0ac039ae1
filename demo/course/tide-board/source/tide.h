/* A character LCD in 4-bit mode (RS PB0, RW PB1, E PB2, data at PD4 to PD7), a lamp of three colours and a gauge. */
#include <avr/io.h>
#include <stdio.h>
#include <util/delay.h>

#define RED _BV(2)   /* of port D */
#define GREEN _BV(3) /* of port D */

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
	if (v < 4)
		_delay_ms(3);
}

static void lcd_text(const char *s)
{
	while (*s)
		lcd_send(*s++, 1);
}

/* Starts the display with a cursor as the last bits of its on/off command say. */
static void lcd_begin(uint8_t cursor)
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
	lcd_command(0x0c | cursor);
	lcd_command(0x01);
	lcd_command(0x06);
}

/* Defines a character of the program's own. */
static void lcd_define(uint8_t code, const uint8_t *rows)
{
	lcd_command(0x40 | code << 3);
	for (uint8_t i = 0; i < 8; i++)
		lcd_send(rows[i], 1);
}

static void gauge_begin(void)
{
	ADMUX = _BV(REFS0);
	ADCSRA = _BV(ADEN) | 7;
}

/* The level in cm, to 10 cm. */
static uint16_t gauge(void)
{
	ADCSRA |= _BV(ADSC);
	while (ADCSRA & _BV(ADSC))
		;
	return ADC * 500UL / 1024 / 10 * 10;
}
