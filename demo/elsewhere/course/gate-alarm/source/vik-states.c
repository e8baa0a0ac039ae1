#include <avr/interrupt.h>
#include <avr/io.h>

enum { CLOSED, OPEN, ALARM };

static volatile uint16_t millis;

ISR(TIMER0_COMPA_vect)
{
	millis++;
}

static uint16_t now(void)
{
	uint16_t t;
	cli();
	t = millis;
	sei();
	return t;
}

static void tone(uint8_t on)
{
	if (on) {
		TCCR1A = _BV(COM1A0);
		TCCR1B = _BV(WGM12) | _BV(CS11);
	} else {
		TCCR1A = 0;
		TCCR1B = 0;
		PORTB &= ~_BV(PB1);
	}
}

int main(void)
{
	uint8_t state = CLOSED;
	uint16_t since = 0;

	DDRB = _BV(PB1);
	DDRC = _BV(PC4) | _BV(PC5);
	PORTD = _BV(PD2);
	OCR1A = 499;
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS01) | _BV(CS00);
	OCR0A = 249;
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;) {
		uint8_t open = PIND & _BV(PD2);
		uint16_t passed = now() - since;

		switch (state) {
		case CLOSED:
			PORTC = _BV(PC5);
			if (open) {
				state = OPEN;
				since = now();
			}
			break;
		case OPEN:
			PORTC = _BV(PC4);
			if (!open && passed > 20) {
				state = CLOSED;
			} else if (passed >= 2000) {
				state = ALARM;
				since = now();
				tone(1);
			}
			break;
		case ALARM:
			if (passed / 250 % 2)
				PORTC = _BV(PC4);
			else
				PORTC = 0;
			if (!open) {
				tone(0);
				state = CLOSED;
			}
			break;
		}
	}
}
