/* The gauge's digit: common anode, segments a to f at PC0 to PC5, g at PB2. */
#include <avr/io.h>
#include <stdint.h>

enum { A = 1, C = 4, D = 8, E = 16, G = 64 };
#ifndef B
enum { B = 2, F = 32 };
#endif
#ifndef SIX
#define SIX (A | C | D | E | F | G)
#endif

/* Patterns of the levels empty, 2, 4, 6, 8. */
static const uint8_t pattern[] = {G, A | B | D | E | G, B | C | F | G, SIX, A | B | C | D | E | F | G};

static void digit_begin(void)
{
	PORTC = 0x3f;
	PORTB = _BV(1) | _BV(2);
	DDRC = 0x3f;
	DDRB = _BV(1) | _BV(2);
}

static void digit_show(uint8_t segments)
{
	PORTC = ~segments & 0x3f;
	if (segments & G)
		PORTB &= ~_BV(2);
	else
		PORTB |= _BV(2);
}
