/* I. Penn: patterns made for a common cathode. */
#include "gauge.h"
#include <avr/interrupt.h>
#include <avr/sleep.h>

static const uint8_t course[] = {0, 1, 2, 3, 4, 3, 2, 1, 0};
static uint8_t step, level, hand, was;
static uint16_t passed;

ISR(TIMER0_COMPA_vect)
{
	static uint8_t slow;
	if (++slow == 20) {
		slow = 0;
		uint8_t now = !(PIND & _BV(7));
		if (now && !was) {
			hand = 1;
			if (level < 4)
				level++;
			digit_show((uint8_t)~pattern[level]);
		}
		was = now;
	}
	if (!hand && step < 8 && ++passed == 700) {
		passed = 0;
		level = course[++step];
		digit_show((uint8_t)~pattern[level]);
	}
}

int main(void)
{
	digit_begin();
	PORTD |= _BV(7);
	digit_show((uint8_t)~pattern[0]);
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS01) | _BV(CS00);
	OCR0A = 249;
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;)
		sleep_mode();
}
