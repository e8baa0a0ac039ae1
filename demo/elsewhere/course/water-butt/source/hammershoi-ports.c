/* Water butt. Hammershoi, group of Tuesday. Ports by hand, digits from the timer. */
#include <avr/io.h>
#include <avr/interrupt.h>
#include <stdint.h>

#define ENOUGH 30
#define TOO_MUCH 90
#define BLINK 250 /* ms */
#define QUIET 20  /* ms */

static const uint8_t font[10] = {
	0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F
};

static volatile uint16_t ms;
static volatile uint8_t picture[2];

ISR(TIMER1_COMPA_vect)
{
	static uint8_t which;

	ms++;
	if (ms & 1)
		return;
	PORTC |= 0x03;
	PORTA = picture[which];
	if (which == 0)
		PORTC &= ~_BV(0);
	else
		PORTC &= ~_BV(1);
	which ^= 1;
}

static uint16_t now(void)
{
	uint16_t t;
	cli();
	t = ms;
	sei();
	return t;
}

static uint16_t measure(void)
{
	ADCSRA |= _BV(ADSC);
	while (ADCSRA & _BV(ADSC))
		;
	return ADC;
}

int main(void)
{
	uint16_t blinked = 0, touched = 0;
	uint8_t kept = 0, was_down = 0, blink = 0;

	DDRA = 0xFF;
	DDRC = 0x03;
	PORTC = 0x03;
	DDRL = 0x07;
	PORTD = _BV(0);
	ADMUX = _BV(REFS0) | 2;
	ADCSRA = _BV(ADEN) | 7;
	TCCR1B = _BV(WGM12) | _BV(CS11);
	OCR1A = 1999;
	TIMSK1 = _BV(OCIE1A);
	sei();

	for (;;) {
		uint16_t raw = measure();
		uint8_t level = (uint32_t)raw * 100 / 1024;
		uint8_t down = !(PIND & _BV(0));
		uint16_t t = now();

		if (down != was_down && t - touched >= QUIET) {
			touched = t;
			was_down = down;
			if (down)
				kept = !kept;
		}

		if (!kept) {
			picture[0] = level >= 10 ? font[level / 10] : 0;
			picture[1] = font[level % 10];
		} else {
			picture[1] |= 0x80;
		}

		if (level >= ENOUGH) {
			blinked = t;
			blink = 1;
		} else if (t - blinked >= BLINK) {
			blinked += BLINK;
			blink = !blink;
		}
		if (level >= ENOUGH)
			PORTL |= _BV(0);
		else
			PORTL &= ~_BV(0);
		if (blink && level < ENOUGH)
			PORTL |= _BV(1);
		else
			PORTL &= ~_BV(1);
		if (level > TOO_MUCH)
			PORTL |= _BV(2);
		else
			PORTL &= ~_BV(2);
	}
}
