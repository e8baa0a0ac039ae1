#define F_CPU 8000000UL
#include <avr/io.h>
#include <avr/interrupt.h>
#include <util/delay.h>

static const unsigned char font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static volatile unsigned char seeds;
static unsigned char place;

ISR(TIMER0_COMPA_vect)
{
	PORTB &= ~3;
	if (place == 0) {
		PORTD = seeds >= 10 ? font[seeds / 10] : 0;
		PORTB |= 1;
	} else {
		PORTD = font[seeds % 10];
		PORTB |= 2;
	}
	place = !place;
}

static unsigned char pressed(unsigned char bit)
{
	return !(PINC & (1 << bit));
}

int main(void)
{
	unsigned char before = 0, clearBefore = 0;
	DDRD = 0x7f;
	DDRB = 3;
	DDRC = 1;
	PORTC = 0x06;
	TCCR0A = 1 << WGM01;
	TCCR0B = (1 << CS01) | (1 << CS00);
	OCR0A = 249;
	TIMSK0 = 1 << OCIE0A;
	sei();
	while (1) {
		unsigned char now = pressed(1), clearNow = pressed(2);
		if (now && !before) {
			if (seeds == 12)
				seeds = 1;
			else
				seeds++;
		}
		if (clearNow && !clearBefore)
			seeds = 0;
		before = now;
		clearBefore = clearNow;
		if (seeds == 12)
			PORTC |= 1;
		else
			PORTC &= ~1;
		_delay_ms(10);
	}
}
