#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t figure[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static volatile uint16_t boats;

/* The scan and the key, every millisecond. */
ISR(TIMER0_COMPA_vect)
{
	static const uint16_t worth[4] = {1000, 100, 10, 1};
	static uint8_t place, rest, last, down;
	PORTB &= 0xf0;
	PORTD = boats >= worth[place] || place == 3 ? figure[boats / worth[place] % 10] : 0;
	PORTB |= 1 << place;
	place = (place + 1) % 4;

	uint8_t now = !(PINC & _BV(PC0));
	if (now != last) {
		last = now;
		rest = 0;
	} else if (rest < 20 && ++rest == 20 && now != down) {
		down = now;
		if (down)
			boats = (boats + 1) % 10000;
	}
}

int main(void)
{
	DDRD = 0x7f;
	DDRB = 0x0f;
	PORTC = _BV(PC0);
	TCCR0A = _BV(WGM01);
	OCR0A = 249;
	TCCR0B = _BV(CS01) | _BV(CS00);
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;)
		;
}
