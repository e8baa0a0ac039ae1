/* M. Innes: a capital N that is an A without its middle. */
#include <avr/io.h>
#include <util/delay.h>

#define O 0x3f
#define P 0x73
#define E 0x79
#define N 0x37
#define S 0x6d
#define H 0x76
#define U 0x3e
#define T 0x78

static const uint8_t open[4] = {O, P, E, N};
static const uint8_t shut[4] = {S, H, U, T};

int main(void)
{
	DDRD = 0x7f;
	DDRB = 0x0f;
	PORTB = 0x0f;
	PORTC = _BV(0);
	for (;;) {
		const uint8_t *word = PINC & _BV(0) ? shut : open;
		for (uint8_t i = 0; i < 4; i++) {
			PORTB = 0x0f;
			PORTD = ~word[i] & 0x7f;
			PORTB = 0x0f & ~_BV(i);
			_delay_ms(2);
		}
	}
}
