#include <avr/interrupt.h>
#include <avr/io.h>

enum state { GO, CAUTION, STOP, READY };

struct phase {
	uint8_t lamps;
	uint16_t ticks;
	enum state next;
};

#define RED _BV(1)
#define AMBER _BV(2)
#define GREEN _BV(3)
#define LAMPS (RED | AMBER | GREEN)

static const struct phase plan[] = {
	[GO] = {GREEN, 0, CAUTION},
	[CAUTION] = {AMBER, 80, STOP},
	[STOP] = {RED, 200, READY},
	[READY] = {RED | AMBER, 60, GO},
};

static enum state state = GO;
static uint16_t ticks;
static uint8_t low_for;

static void enter(enum state s)
{
	state = s;
	ticks = plan[s].ticks;
	PORTC = (PORTC & ~LAMPS) | (LAMPS & ~plan[s].lamps);
}

ISR(TIMER1_COMPA_vect)
{
	if (PINB & _BV(4))
		low_for = 0;
	else if (low_for < 3)
		low_for++;
	if (state == GO) {
		if (low_for == 2)
			enter(CAUTION);
	} else if (--ticks == 0) {
		enter(plan[state].next);
	}
}

int main(void)
{
	PORTB = _BV(4);
	PORTC = LAMPS;
	DDRC = LAMPS;
	enter(GO);
	OCR1A = 19999;
	TCCR1B = _BV(WGM12) | _BV(CS11);
	TIMSK1 = _BV(OCIE1A);
	sei();
	for (;;)
		;
}
