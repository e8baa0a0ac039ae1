#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>

static volatile uint8_t seconds;
static volatile uint8_t half;

static void show(void)
{
	PORTC = ~seconds & 0x3f;
	if (half)
		PORTD |= _BV(PD7);
	else
		PORTD &= ~_BV(PD7);
}

ISR(TIMER1_COMPA_vect)
{
	half ^= 1;
	if (!half) {
		seconds++;
		if (seconds == 60)
			seconds = 0;
	}
	show();
}

int main(void)
{
	DDRC = 0x3f;
	DDRD = _BV(PD7);
	show();
	TCCR1B = _BV(WGM12) | _BV(CS12);
	OCR1A = 31249;
	TIMSK1 = _BV(OCIE1A);
	sei();
	for (;;)
		sleep_mode();
}
