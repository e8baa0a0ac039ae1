#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t digits[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static volatile uint8_t shown[4];
static volatile uint16_t ms;
static volatile uint8_t running = 1, second_passed;

static void put_segments(uint8_t s)
{
	PORTB = s & 0x3f;
	if (s & 0x40)
		PORTC |= _BV(5);
	else
		PORTC &= ~_BV(5);
}

ISR(TIMER0_COMPA_vect)
{
	static uint8_t place;
	PORTC &= 0xf0;
	put_segments(shown[place]);
	PORTC |= _BV(place);
	place = (place + 1) & 3;
	if (running && ++ms == 1000) {
		ms = 0;
		second_passed = 1;
	}
}

static void show(uint8_t left)
{
	uint8_t m = left / 60, s = left % 60;
	shown[0] = 0;
	shown[1] = digits[m];
	shown[2] = digits[s / 10];
	shown[3] = digits[s % 10];
}

int main(void)
{
	uint8_t left = 65, was = 0, same = 0, stable = 0;

	DDRB = 0x3f;
	DDRC = 0x3f;
	DDRD = _BV(7);
	PORTD = _BV(2);
	PORTC |= _BV(4);
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS01) | _BV(CS00);
	OCR0A = 124;
	TIMSK0 = _BV(OCIE0A);
	show(left);
	PORTD |= _BV(7);
	TCCR2B = _BV(CS22) | _BV(CS21);
	sei();
	for (;;) {
		if (second_passed) {
			second_passed = 0;
			if (left)
				show(--left);
			if (!left)
				PORTD &= ~_BV(7);
		}
		uint8_t now = !(PIND & _BV(2));
		if (now == was) {
			if (same < 200)
				same++;
		} else {
			same = 0;
			was = now;
		}
		uint8_t t = TCNT2;
		while ((uint8_t)(TCNT2 - t) < 4)
			;
		if (same > 100 && now != stable) {
			stable = now;
			if (stable)
				running = !running;
		}
	}
}
