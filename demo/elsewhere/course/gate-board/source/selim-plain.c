#include <avr/io.h>

int main(void)
{
	DDRB = 0x7F;
	DDRC = 0x00;
	DDRD = 0xE0;
	PORTC = 0x07;

	while (1)
	{
		unsigned char gates = PINC & 0x07;   // 1 is open
		unsigned char n = 0;

		if (gates & 0x01) n++;
		if (gates & 0x02) n++;
		if (gates & 0x04) n++;

		if (n == 0) PORTB = 0b11000000;
		if (n == 1) PORTB = 0b11111001;
		if (n == 2) PORTB = 0b10100100;
		if (n == 3) PORTB = 0b10110000;

		if (n == 3)
			PORTD |= (1 << 5);
		else
			PORTD &= ~(1 << 5);

		if (n == 0)
			PORTD |= (1 << 6);
		else
			PORTD &= ~(1 << 6);

		if (gates == 0x05)
			PORTD |= (1 << 7);
		else
			PORTD &= ~(1 << 7);
	}
}
