#include <avr/io.h>
#include <util/delay.h>

#define RS PB0
#define E PB1

static void nibble(uint8_t n)
{
	PORTD = (PORTD & 0x0f) | n << 4;
	PORTB |= _BV(E);
	_delay_us(1);
	PORTB &= ~_BV(E);
	_delay_us(50);
}

static void send(uint8_t b, uint8_t text)
{
	if (text)
		PORTB |= _BV(RS);
	else
		PORTB &= ~_BV(RS);
	nibble(b >> 4);
	nibble(b & 0x0f);
}

static void command(uint8_t c)
{
	send(c, 0);
	if (c < 4)
		_delay_ms(2);
}

static void at(uint8_t row, const char *text)
{
	command(row ? 0xc0 : 0x80);
	while (*text)
		send(*text++, 1);
}

static void begin(void)
{
	DDRD |= 0xf0;
	DDRB |= _BV(RS) | _BV(E);
	_delay_ms(50);
	nibble(3);
	_delay_ms(5);
	nibble(3);
	_delay_us(200);
	nibble(3);
	nibble(2);
	command(0x28);
	command(0x0c);
	command(0x01);
	command(0x06);
}

static void count(uint8_t n)
{
	char text[] = "Boats:    ";
	text[9] = '0' + n % 10;
	if (n >= 10)
		text[8] = '0' + n / 10 % 10;
	if (n >= 100)
		text[7] = '0' + n / 100;
	at(1, text);
}

int main(void)
{
	uint8_t boats = 0;
	PORTC = _BV(PC0);
	begin();
	at(0, "Wherry Lock");
	count(0);
	for (;;) {
		while (PINC & _BV(PC0))
			;
		count(++boats);
		_delay_ms(20);
		while (!(PINC & _BV(PC0)))
			;
		_delay_ms(20);
	}
}
