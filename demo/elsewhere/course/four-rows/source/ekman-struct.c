#include <avr/io.h>
#include <stdio.h>
#include <util/delay.h>

struct house {
	const char *name;
	uint8_t address;
	uint8_t visitors;
};

static struct house houses[4] = {
	{"Palms", 0x00, 0},
	{"Ferns", 0x40, 0},
	{"Cacti", 0x14, 0},
	{"Orchids", 0x54, 0},
};
static uint8_t marked;

static void half(uint8_t n)
{
	PORTD = (PORTD & 0x0f) | (n << 4);
	PORTB |= _BV(PB1);
	_delay_us(1);
	PORTB &= ~_BV(PB1);
	_delay_us(50);
}

static void send(uint8_t b)
{
	half(b >> 4);
	half(b & 0x0f);
}

static void command(uint8_t c)
{
	PORTB &= ~_BV(PB0);
	send(c);
	if (c <= 3)
		_delay_ms(2);
}

static void print(const char *s)
{
	PORTB |= _BV(PB0);
	while (*s)
		send(*s++);
}

static void row(uint8_t i)
{
	char text[21];
	sprintf(text, "%-9s%c%10u", houses[i].name, i == marked ? '>' : ' ', houses[i].visitors);
	command(0x80 | houses[i].address);
	print(text);
}

static void all(void)
{
	uint8_t sum = 0;
	for (uint8_t i = 0; i < 4; i++) {
		row(i);
		sum += houses[i].visitors;
	}
	if (sum > 3)
		PORTC |= _BV(PC3);
	else
		PORTC &= ~_BV(PC3);
}

static void start(void)
{
	_delay_ms(40);
	PORTB &= ~_BV(PB0);
	half(3);
	_delay_ms(5);
	half(3);
	_delay_us(150);
	half(3);
	half(2);
	command(0x28);
	command(0x0c);
	command(0x06);
	command(0x01);
}

int main(void)
{
	uint8_t before = 0x07;
	DDRD = 0xf0;
	DDRB = _BV(PB0) | _BV(PB1);
	DDRC = _BV(PC3);
	PORTC = 0x07;
	start();
	all();
	for (;;) {
		uint8_t now = PINC & 0x07;
		uint8_t pressed = before & ~now;
		before = now;
		if (pressed & 1) {
			marked = (marked + 1) % 4;
			all();
		}
		if (pressed & 2) {
			houses[marked].visitors++;
			all();
		}
		if (pressed & 4) {
			if (houses[marked].visitors > 0)
				houses[marked].visitors--;
			all();
		}
		_delay_ms(10);
	}
}
