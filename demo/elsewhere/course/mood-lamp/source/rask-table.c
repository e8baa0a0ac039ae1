#include <avr/interrupt.h>
#include <avr/io.h>

#define R 0x02
#define G 0x04
#define B 0x08

struct step {
	unsigned char lit;
	unsigned int ms;
};

static const struct step steps[] = {{R, 600}, {R | G, 600}, {G, 600}, {G | B, 600}, {B, 600}, {0, 400}};
#define COUNT (sizeof steps / sizeof steps[0])

static unsigned char at;
static unsigned int passed;

static void light(void)
{
	PORTB = (R | G | B) & ~steps[at].lit;
}

ISR(TIMER0_COMPA_vect)
{
	if (++passed < steps[at].ms)
		return;
	passed = 0;
	if (++at == COUNT)
		at = 0;
	light();
}

int main(void)
{
	PORTB = R | G | B;
	DDRB = R | G | B;
	light();
	TCCR0A = _BV(WGM01);
	OCR0A = 124;
	TCCR0B = _BV(CS01);
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;)
		;
}
