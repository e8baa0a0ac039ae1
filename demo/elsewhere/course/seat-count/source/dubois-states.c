#include <avr/interrupt.h>
#include <avr/io.h>

typedef enum { UP, MAYBE_DOWN, DOWN, MAYBE_UP } state_t;

typedef struct {
	uint8_t mask;
	state_t state;
	uint8_t ticks;
	int8_t adds;
} key_t;

static key_t keys[2] = {{_BV(PB0), UP, 0, 1}, {_BV(PB1), UP, 0, -1}};
static int8_t seats = 0;

static void refresh(void)
{
	uint8_t t = seats > 9 ? seats / 10 : 0xf;
	PORTD = (PORTD & 0x0f) | (t << 4);
	PORTC = (PORTC & 0xf0) | (seats % 10);
	if (seats >= 25)
		PORTB |= _BV(PB2);
	else
		PORTB &= ~_BV(PB2);
}

static void change(int8_t by)
{
	int8_t next = seats + by;
	if (next < 0 || next > 25)
		return;
	seats = next;
	refresh();
}

static void step(key_t *k)
{
	uint8_t low = !(PINB & k->mask);
	switch (k->state) {
	case UP:
		if (low) {
			k->state = MAYBE_DOWN;
			k->ticks = 0;
		}
		break;
	case MAYBE_DOWN:
		if (!low)
			k->state = UP;
		else if (++k->ticks >= 10) {
			k->state = DOWN;
			change(k->adds);
		}
		break;
	case DOWN:
		if (!low) {
			k->state = MAYBE_UP;
			k->ticks = 0;
		}
		break;
	case MAYBE_UP:
		if (low)
			k->state = DOWN;
		else if (++k->ticks >= 10)
			k->state = UP;
		break;
	}
}

ISR(TIMER1_COMPA_vect)
{
	step(&keys[0]);
	step(&keys[1]);
}

int main(void)
{
	DDRD |= 0xf0;
	DDRC |= 0x0f;
	DDRB |= _BV(PB2);
	PORTB |= _BV(PB0) | _BV(PB1);
	TCCR1B = _BV(WGM12) | _BV(CS11);
	OCR1A = 1999;
	TIMSK1 = _BV(OCIE1A);
	refresh();
	sei();
	for (;;)
		;
}
