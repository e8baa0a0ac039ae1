/* Z. Yates: each bit by hand, a timer's interrupt for the buttons. ATmega328P. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include "chain.h"

static volatile uint8_t fares, changed = 1;

static void send_byte(uint8_t byte)
{
	for (uint8_t bit = 0x80; bit; bit >>= 1) {
		if (byte & bit)
			PORTB |= _BV(3);
		else
			PORTB &= ~_BV(3);
		PORTB |= _BV(5);
		PORTB &= ~_BV(5);
	}
}

static void latch(void)
{
	PORTB |= _BV(2);
	PORTB &= ~_BV(2);
}

ISR(TIMER0_COMPA_vect)
{
	static uint8_t down, steady;
	uint8_t now = ~PIND & (_BV(2) | _BV(3));
	if (now == down) {
		steady = 0;
		return;
	}
	if (++steady < 8)
		return;
	steady = 0;
	uint8_t pressed = now & ~down;
	down = now;
	if (pressed & _BV(2) && fares < 95)
		fares += 5;
	if (pressed & _BV(3))
		fares = 0;
	changed |= pressed;
}

int main(void)
{
	DDRB = _BV(2) | _BV(3) | _BV(5);
	DDRD = _BV(7);
	PORTD = _BV(2) | _BV(3);
	TCCR0A = _BV(WGM01);
	OCR0A = 249;
	TCCR0B = _BV(CS01) | _BV(CS00);
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;) {
		if (!changed)
			continue;
		changed = 0;
		show(fares);
		PORTD = (PORTD & ~_BV(7)) | (fares >= 15 ? _BV(7) : 0);
	}
}
