/* L. Birch: a table of the phases, and a timer that ticks every second. */
#include "quay.h"
#include <avr/interrupt.h>

static const struct {
	uint8_t lamps, seconds, counts;
} phases[] = {{RED, 12, 1}, {RED | AMBER, 1, 0}, {GREEN, 5, 0}, {AMBER, 2, 0}};

static uint8_t phase, left;

static void show(void)
{
	PORTC = phases[phase].lamps;
	if (!phases[phase].counts)
		put(0, 0);
	else
		put(left >= 10 ? font[left / 10] : 0, font[left % 10]);
}

ISR(TIMER1_COMPA_vect)
{
	if (--left == 0) {
		phase = (phase + 1) % 4;
		left = phases[phase].seconds;
	}
	show();
}

int main(void)
{
	begin();
	left = phases[0].seconds;
	show();
	TCCR1B = _BV(WGM12) | _BV(CS12);
	OCR1A = 62499;
	TIMSK1 = _BV(OCIE1A);
	sei();
	for (;;)
		;
}
