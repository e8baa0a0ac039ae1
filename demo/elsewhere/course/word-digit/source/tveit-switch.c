#include <avr/io.h>
#include <util/delay.h>

#define A 0x01
#define B 0x02
#define C 0x04
#define D 0x08
#define E 0x10
#define F 0x20
#define G 0x40

void show(unsigned char s)
{
	PORTB = ~s & 0x3f;
	if (s & G)
		PORTC &= ~1;
	else
		PORTC |= 1;
}

void letter(char c)
{
	switch (c) {
	case 'O':
		show(A | B | C | D | E | F);
		break;
	case 'P':
		show(A | B | E | F | G);
		break;
	case 'E':
		show(A | D | E | F | G);
		break;
	case 'N':
		show(C | E | G);
		break;
	default:
		show(0);
	}
}

int main(void)
{
	const char *word = "OPEN";

	DDRB = 0x3f;
	DDRC = 0x01;
	show(0);
	while (1) {
		for (int i = 0; i < 4; i++) {
			letter(word[i]);
			_delay_ms(700);
			letter(' ');
			_delay_ms(100);
		}
		_delay_ms(600);
	}
}
