/* Z. Imre: timer 2 lights a digit every millisecond; main waits for the button. */
#include "digits.h"
#include <avr/interrupt.h>

static volatile uint8_t ticks;

ISR(TIMER2_COMPA_vect)
{
	digits_next();
	ticks++;
}

int main(void)
{
	uint16_t boats = 8;
	uint8_t was = 0;

	digits_begin();
	digits_set(boats);
	TCCR2A = _BV(WGM21);
	TCCR2B = _BV(CS22);
	OCR2A = 249;
	TIMSK2 = _BV(OCIE2A);
	sei();
	for (;;) {
		while (ticks < 20)
			;
		ticks = 0;
		uint8_t now = !(PINC & _BV(0));
		if (now && !was)
			digits_set(++boats);
		was = now;
	}
}
