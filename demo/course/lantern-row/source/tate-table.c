/* Timer 0 counts 8 ms; each 25 of them the next lantern of a table is lit. */
#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t lanterns[] = {1, 2, 4, 8, 16, 8, 4, 2};
static volatile uint8_t place;

ISR(TIMER0_COMPA_vect)
{
	static uint8_t ticks;
	if (++ticks < 25)
		return;
	ticks = 0;
	place = (place + 1) & 7;
	PORTB = lanterns[place];
}

int main(void)
{
	DDRB = 0x1f;
	PORTB = lanterns[0];
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS02);
	OCR0A = 249;
	TIMSK = _BV(OCIE0A);
	sei();
	for (;;)
		;
}
