#include <avr/io.h>
#include <avr/interrupt.h>

#define NW 0x01
#define NE 0x02
#define W  0x04
#define M  0x08
#define E  0x10
#define SW 0x20
#define SE 0x40

static volatile uint8_t ms;

ISR(TIMER0_COMPA_vect)
{
	ms++;
}

static void wait(uint8_t n)
{
	uint8_t from = ms;
	while ((uint8_t)(ms - from) < n)
		;
}

static void light(uint8_t pips)
{
	PORTB = ~pips & 0x3f;
	if (pips & SE)
		PORTC &= ~_BV(PC0);
	else
		PORTC |= _BV(PC0);
}

static void show(uint8_t face)
{
	switch (face) {
	case 1:
		light(M);
		break;
	case 2:
		light(NW | SE);
		break;
	case 3:
		light(NW | M | SE);
		break;
	case 4:
		light(NW | NE | SW | SE);
		break;
	case 5:
		light(NW | NE | M | SW | SE);
		break;
	case 6:
		light(NW | NE | W | E | SW | SE);
		break;
	}
}

int main(void)
{
	uint8_t face = 1;

	PORTB = 0x3f;
	PORTC = _BV(PC0);
	DDRB = 0x3f;
	DDRC = _BV(PC0);
	PORTD = _BV(PD3);
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS01) | _BV(CS00);
	OCR0A = 249;
	TIMSK0 = _BV(OCIE0A);
	sei();
	show(face);
	while (1) {
		while (PIND & _BV(PD3))
			;
		wait(15);
		if (PIND & _BV(PD3))
			continue;
		face++;
		if (face > 6)
			face = 1;
		show(face);
		do {
			wait(15);
		} while (!(PIND & _BV(PD3)));
	}
}
