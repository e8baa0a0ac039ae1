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

int main(void)
{
	uint8_t open = 0;
	PORTC = _BV(PC0);
	DDRB |= _BV(PB5);
	begin();
	at(0, "Gate shut");
	for (;;) {
		while (PINC & _BV(PC0))
			;
		open = !open;
		if (open)
			PORTB |= _BV(PB5);
		else
			PORTB &= ~_BV(PB5);
		at(0, open ? "Gate open" : "Gate shut");
		_delay_ms(20);
		while (!(PINC & _BV(PC0)))
			;
		_delay_ms(20);
	}
}
