/* R. Oke: the timer counts to twice as much, so everything takes twice as long. */
#include <avr/io.h>
#include <avr/interrupt.h>
#include <avr/sleep.h>

struct phase { uint8_t lamps; uint16_t ticks; };
#define RED   (_BV(0) | _BV(1))
#define DARK  (_BV(1))
#define GREEN 0
static const struct phase plan[] = {{RED, 300}, {DARK, 50}, {GREEN, 200}, {DARK, 50}};
static uint8_t at;
static uint16_t left;

static void enter(uint8_t phase)
{
	at = phase;
	left = plan[phase].ticks;
	PORTB = plan[phase].lamps;
}

ISR(TIMER1_COMPA_vect)
{
	if (--left == 0)
		enter((at + 1) % 4);
}

int main(void)
{
	enter(0);
	DDRB = _BV(0) | _BV(1);
	TCCR1B = _BV(WGM12) | _BV(CS11);
	OCR1A = 40000 - 1;
	TIMSK1 = _BV(OCIE1A);
	set_sleep_mode(SLEEP_MODE_IDLE);
	sei();
	for (;;)
		sleep_mode();
}
