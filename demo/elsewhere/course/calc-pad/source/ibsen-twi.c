#include <avr/io.h>
#include <stdio.h>
#include <util/delay.h>

#define ADDRESS 0x27
#define RS 1
#define EN 4
#define LIGHT 8

static void twi(uint8_t bits)
{
	TWCR = _BV(TWINT) | _BV(TWEN) | bits;
	while (!(TWCR & _BV(TWINT)))
		;
}

static void expander(uint8_t value)
{
	twi(_BV(TWSTA));
	TWDR = ADDRESS << 1;
	twi(0);
	TWDR = value | LIGHT;
	twi(0);
	TWCR = _BV(TWINT) | _BV(TWEN) | _BV(TWSTO);
	while (TWCR & _BV(TWSTO))
		;
}

static void half(uint8_t high, uint8_t rs)
{
	expander(high | rs | EN);
	_delay_us(2);
	expander(high | rs);
	_delay_us(50);
}

static void lcd(uint8_t byte, uint8_t rs)
{
	half(byte & 0xf0, rs);
	half(byte << 4, rs);
	if (!rs && byte < 4)
		_delay_ms(2);
}

static void print(uint8_t at, const char *text)
{
	lcd(0x80 | at, 0);
	while (*text)
		lcd(*text++, RS);
}

static const char names[4][4] = {"123A", "456B", "789C", "*0#D"};

static char look(void)
{
	for (uint8_t r = 0; r < 4; r++) {
		DDRD = 1 << r;
		PORTD = 0xff & ~(1 << r);
		_delay_us(30);
		uint8_t columns = PIND >> 4;
		for (uint8_t c = 0; c < 4; c++)
			if (!(columns & 1 << c))
				return names[r][c];
	}
	return 0;
}

static int sum, entry;

static void show(void)
{
	char text[17];
	sprintf(text, "Sum%13d", sum);
	print(0x00, text);
	sprintf(text, "%16d", entry);
	print(0x40, text);
}

static void key(char k)
{
	if (k >= '0' && k <= '9') {
		if (entry < 100)
			entry = entry * 10 + k - '0';
	} else if (k == 'A') {
		sum += entry;
		entry = 0;
	} else if (k == 'B') {
		sum -= entry;
		entry = 0;
	} else if (k == 'C') {
		entry = 0;
	} else if (k == '*') {
		entry /= 10;
	} else if (k == '#') {
		sum = 0;
	}
	show();
}

int main(void)
{
	char before = 0;
	TWBR = 72;
	_delay_ms(50);
	half(0x30, 0);
	_delay_ms(5);
	half(0x30, 0);
	_delay_ms(1);
	half(0x30, 0);
	half(0x20, 0);
	lcd(0x28, 0);
	lcd(0x0c, 0);
	lcd(0x06, 0);
	lcd(0x01, 0);
	show();
	for (;;) {
		char k = look();
		if (k != before) {
			_delay_ms(15);
			if (look() != k)
				continue;
			before = k;
			if (k)
				key(k);
		}
	}
}
