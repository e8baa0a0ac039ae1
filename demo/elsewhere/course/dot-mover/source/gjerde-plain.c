#include <avr/io.h>
#include <util/delay.h>

unsigned char x = 3, y = 3;

void out(unsigned char reg, unsigned char data)
{
	int i;
	unsigned int word = reg * 256 + data;

	PORTD &= ~(1 << 6);
	for (i = 15; i >= 0; i--) {
		if (word >> i & 1)
			PORTD |= 1 << 4;
		else
			PORTD &= ~(1 << 4);
		PORTD |= 1 << 5;
		PORTD &= ~(1 << 5);
	}
	PORTD |= 1 << 6;
}

void draw(void)
{
	int row;

	for (row = 0; row < 8; row++)
		out(row + 1, row == y ? 0x80 >> x : 0);
}

int main(void)
{
	unsigned char keys, last = 0x0f;

	DDRD = 0x70;
	PORTB = 0x0f;
	out(15, 0);
	out(9, 0);
	out(11, 7);
	out(10, 5);
	draw();
	out(12, 1);
	while (1) {
		keys = PINB & 0x0f;
		if (keys != last) {
			_delay_ms(8);
			keys = PINB & 0x0f;
			if (!(keys & 1) && (last & 1) && x > 0)
				x--;
			if (!(keys & 2) && (last & 2) && x < 7)
				x++;
			if (!(keys & 4) && (last & 4) && y > 0)
				y--;
			if (!(keys & 8) && (last & 8) && y < 7)
				y++;
			last = keys;
			draw();
		}
	}
}
