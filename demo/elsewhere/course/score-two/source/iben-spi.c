#include <avr/io.h>
#include <util/delay.h>

const unsigned char seg[] = {0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F};
unsigned char home = 0, away = 0;

void send(unsigned char b)
{
	SPDR = b;
	while (!(SPSR & (1 << SPIF)));
}

void show()
{
	send(seg[away]);
	send(seg[home]);
	PORTB |= (1 << PB2);
	PORTB &= ~(1 << PB2);
}

int main()
{
	unsigned char last = 7;

	DDRB = (1 << PB2) | (1 << PB3) | (1 << PB5);
	PORTC = 7;
	SPCR = (1 << SPE) | (1 << MSTR);
	show();
	while (1) {
		unsigned char keys = PINC & 7;
		unsigned char pressed = last & ~keys;
		if (pressed & 1) {
			if (home < 9) home++;
		}
		if (pressed & 2) {
			if (away < 9) away++;
		}
		if (pressed & 4) {
			home = 0;
			away = 0;
		}
		if (keys != last) {
			show();
			_delay_ms(15);
		}
		last = keys;
	}
}
