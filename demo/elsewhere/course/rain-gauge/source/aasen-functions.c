#include <avr/io.h>
#include <util/delay.h>

static void pulse(unsigned char n)
{
	PORTC = (PORTC & ~0x3c) | n << 2;
	PORTC |= 2;
	_delay_us(2);
	PORTC &= ~2;
	_delay_us(50);
}

static void send(unsigned char rs, unsigned char b)
{
	if (rs)
		PORTC |= 1;
	else
		PORTC &= ~1;
	pulse(b >> 4);
	pulse(b & 15);
	if (!rs)
		_delay_ms(2);
}

static void text(const char *s)
{
	while (*s)
		send(1, *s++);
}

static void show(unsigned char tips)
{
	unsigned int rain = tips * 2;

	send(0, 0x80);
	text("Rain ");
	send(1, '0' + rain / 10);
	send(1, '.');
	send(1, '0' + rain % 10);
	text(" mm");
	send(0, 0xc0);
	text("Tips ");
	send(1, tips >= 100 ? '0' + tips / 100 : ' ');
	send(1, tips >= 10 ? '0' + tips / 10 % 10 : ' ');
	send(1, '0' + tips % 10);
	if (rain >= 10)
		PORTB |= 1;
	else
		PORTB &= ~1;
}

int main(void)
{
	unsigned char tips = 0, before = 0x14;

	DDRC = 0x3f;
	DDRB = 1;
	PORTD = 0x14;
	_delay_ms(50);
	pulse(3);
	_delay_ms(5);
	pulse(3);
	_delay_ms(1);
	pulse(3);
	pulse(2);
	send(0, 0x28);
	send(0, 0x0c);
	send(0, 0x01);
	show(tips);
	while (1) {
		unsigned char now = PIND & 0x14;
		unsigned char fell = before & ~now;
		if (fell & 0x04) {
			tips++;
			show(tips);
		}
		if (fell & 0x10) {
			tips = 0;
			show(tips);
		}
		if (now != before)
			_delay_ms(10);
		before = now;
	}
}
