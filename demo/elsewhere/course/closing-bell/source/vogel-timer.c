#include <avr/interrupt.h>
#include <avr/io.h>

enum { QUIET = 0, HIGH = 660, LOW = 440 };

static const struct {
	uint16_t hertz, ms;
} melody[] = {{HIGH, 400}, {LOW, 600}, {QUIET, 200}, {HIGH, 400}, {LOW, 600}};

#define NOTES (sizeof melody / sizeof *melody)

static volatile uint16_t ms;

ISR(TIMER0_COMPA_vect)
{
	ms++;
}

static void wait(uint16_t time)
{
	uint16_t start, now;
	cli();
	start = ms;
	sei();
	do {
		cli();
		now = ms;
		sei();
	} while (now - start < time);
}

static void sound(uint16_t hertz)
{
	if (hertz == QUIET) {
		TCCR1A = 0;
		PORTB &= ~_BV(1);
		return;
	}
	OCR1A = F_CPU / 16 / hertz - 1;
	TCNT1 = 0;
	TCCR1A = _BV(COM1A0);
}

int main(void)
{
	DDRB = _BV(1);
	DDRC = _BV(5);
	PORTD = _BV(3);
	TCCR0A = _BV(WGM01);
	OCR0A = 249;
	TCCR0B = _BV(CS01) | _BV(CS00);
	TIMSK0 = _BV(OCIE0A);
	TCCR1B = _BV(WGM12) | _BV(CS11);
	sei();
	while (PIND & _BV(3))
		;
	PORTC |= _BV(5);
	for (uint8_t i = 0; i < NOTES; i++) {
		sound(melody[i].hertz);
		wait(melody[i].ms);
	}
	sound(QUIET);
	PORTC &= ~_BV(5);
	for (;;)
		;
}
