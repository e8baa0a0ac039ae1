/* Turns of the ventilator: INT0 counts, timer 2 scans the digits, timer 1 gives the second */
#include <avr/io.h>
#include <avr/interrupt.h>

enum { BLANK = 10, MINUS = 11 };

static const unsigned char shapes[] = {
	0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f, 0x00, 0x40
};

static volatile unsigned int pulses;
static volatile unsigned char place[3] = { BLANK, BLANK, BLANK };
static volatile unsigned char point;

ISR(INT0_vect)
{
	pulses++;
}

ISR(TIMER2_COMPA_vect)
{
	static unsigned char at;
	unsigned char s = shapes[place[at]];

	PORTB &= ~(7 << 2);
	PORTC = s & 0x3f;
	if (s & 0x40)
		PORTB |= 1;
	else
		PORTB &= ~1;
	if (at == 1 && point)
		PORTB |= 2;
	else
		PORTB &= ~2;
	PORTB |= 4 << at;
	if (++at == 3)
		at = 0;
}

ISR(TIMER1_COMPA_vect)
{
	/* four pulses a turn: tenths of a turn are pulses * 10 / 4 */
	unsigned int tenths = pulses * 5 / 2;

	pulses = 0;
	if (tenths > 199) {
		place[0] = place[1] = place[2] = MINUS;
		point = 0;
	} else {
		place[0] = tenths >= 100 ? tenths / 100 : BLANK;
		place[1] = tenths / 10 % 10;
		place[2] = tenths % 10;
		point = 1;
	}
	if (tenths < 30)
		PORTD |= _BV(7);
	else
		PORTD &= ~_BV(7);
}

int main(void)
{
	DDRB = 0x1f;
	DDRC = 0x3f;
	DDRD = _BV(7);

	EICRA = _BV(ISC01) | _BV(ISC00);
	EIMSK = _BV(INT0);

	TCCR1B = _BV(WGM12) | _BV(CS12);
	OCR1A = 62499;
	TIMSK1 = _BV(OCIE1A);

	TCCR2A = _BV(WGM21);
	TCCR2B = _BV(CS22) | _BV(CS21);
	OCR2A = 124;
	TIMSK2 = _BV(OCIE2A);

	sei();
	while (1)
		;
}
