#include <avr/io.h>
#include <avr/interrupt.h>

#define STORM_FROM 8
#define CALM_BELOW 3

static const uint8_t font[10] = {
	0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f
};

static volatile uint8_t counted;
static volatile uint8_t shown;
static volatile uint8_t ready;
static volatile uint16_t ms;

ISR(TIMER2_COMPA_vect)
{
	static uint8_t was = 1, still, side;

	/* one digit off, the other on */
	PORTC &= ~0x03;
	uint8_t f = side ? font[shown % 10] : font[shown / 10];
	PORTB = ~f & 0x3f;
	if (f & 0x40)
		PORTC &= ~0x04;
	else
		PORTC |= 0x04;
	PORTC |= side ? 0x02 : 0x01;
	side ^= 1;

	/* the cups */
	uint8_t level = PIND & 0x04;
	if (level == was) {
		still = 0;
	} else if (++still >= 4) {
		still = 0;
		was = level;
		if (!level)
			counted++;
	}

	if (++ms == 2000) {
		ms = 0;
		shown = counted;
		counted = 0;
		ready = 1;
	}
}

int main(void)
{
	DDRB = 0x3f;
	DDRC = 0x07;
	DDRD = 0x60;
	PORTD = 0x04;

	TCCR2A = 1 << WGM21;
	TCCR2B = 1 << CS22;       /* 8 MHz / 64 */
	OCR2A = 124;              /* 1 ms */
	TIMSK2 = 1 << OCIE2A;
	sei();

	while (1) {
		if (!ready)
			continue;
		if (shown >= STORM_FROM)
			PORTD |= 0x20;
		else
			PORTD &= ~0x20;
		if (shown < CALM_BELOW)
			PORTD |= 0x40;
		else
			PORTD &= ~0x40;
	}
}
