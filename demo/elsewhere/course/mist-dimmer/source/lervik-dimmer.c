/*
 * Dimmer of the mist house
 * Tor Lervik
 */
#define F_CPU 8000000UL
#include <avr/io.h>
#include <stdio.h>
#include <util/delay.h>

#define RS (1 << PB0)
#define E (1 << PB1)

#define BRIGHTER (1 << PC0)
#define DARKER (1 << PC1)
#define NIGHT (1 << PC2)

static int level;		/* 0 to 4 */
static int night;
static const unsigned char duty[5] = { 0, 64, 128, 191, 255 };

static void lcd_nibble(unsigned char n)
{
	PORTB = (PORTB & ~0x3C) | (n << 2);
	PORTB |= E;
	_delay_us(1);
	PORTB &= ~E;
	_delay_us(50);
}

static void lcd_send(unsigned char value, unsigned char rs)
{
	if (rs)
		PORTB |= RS;
	else
		PORTB &= ~RS;
	lcd_nibble(value >> 4);
	lcd_nibble(value & 0x0F);
}

static void lcd_cmd(unsigned char c)
{
	lcd_send(c, 0);
	_delay_ms(2);
}

static void lcd_puts(const char *s)
{
	while (*s)
		lcd_send(*s++, 1);
}

static void lcd_init(void)
{
	_delay_ms(40);
	lcd_nibble(0x03);
	_delay_ms(5);
	lcd_nibble(0x03);
	_delay_ms(5);
	lcd_nibble(0x03);
	_delay_ms(5);
	lcd_nibble(0x02);
	_delay_ms(5);
	lcd_cmd(0x28);
	lcd_cmd(0x0C);
	lcd_cmd(0x06);
	lcd_cmd(0x01);
}

static void set_lamp(unsigned char value)
{
	if (value == 0) {
		TCCR0A &= ~(1 << COM0A1);	/* really off */
		PORTD &= ~(1 << PD6);
	} else {
		TCCR0A |= 1 << COM0A1;
		OCR0A = value;
	}
}

static void update(void)
{
	char text[17];

	lcd_cmd(0xC0);
	if (night) {
		lcd_puts("Night           ");
		set_lamp(0);
		PORTD &= ~(1 << PD7);
		return;
	}
	sprintf(text, "Level %3d %%     ", level * 25);
	lcd_puts(text);
	set_lamp(duty[level]);
	if (level == 4)
		PORTD |= 1 << PD7;
	else
		PORTD &= ~(1 << PD7);
}

int main(void)
{
	unsigned char before = 0, now, pressed;

	DDRB = 0x3F;
	DDRD = (1 << PD6) | (1 << PD7);
	PORTC = BRIGHTER | DARKER | NIGHT;
	TCCR0A = (1 << WGM01) | (1 << WGM00);
	TCCR0B = 1 << CS01;
	lcd_init();
	lcd_puts("Mist house");
	update();
	while (1) {
		now = ~PINC & (BRIGHTER | DARKER | NIGHT);
		pressed = now & ~before;
		before = now;
		if (pressed & NIGHT) {
			night = !night;
			update();
		}
		if (!night) {
			if ((pressed & BRIGHTER) && level < 4) {
				level++;
				update();
			}
			if ((pressed & DARKER) && level > 0) {
				level--;
				update();
			}
		}
		_delay_ms(20);
	}
}
