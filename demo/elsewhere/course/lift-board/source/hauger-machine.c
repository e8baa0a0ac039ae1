#include <avr/io.h>
#include <util/delay.h>

enum { RESTING, MOVING, OPEN };

static const uint8_t figures[] = {0x00, 0x06, 0x5b, 0x4f, 0x66};

#define UP _BV(PB0)
#define DOWN _BV(PB1)
#define DOOR _BV(PB2)

static uint8_t floor_now = 1;
static uint8_t target;
static uint8_t called;
static uint8_t state = RESTING;
static uint16_t left;

static void keys(void)
{
	static uint8_t before = 0x0f;
	uint8_t now = PINC & 0x0f;
	for (uint8_t i = 0; i < 4; i++)
		if (before & _BV(i) && !(now & _BV(i)))
			called = i + 1;
	before = now;
}

static void open(void)
{
	PORTB &= ~(UP | DOWN);
	PORTB |= DOOR;
	state = OPEN;
	left = 200;
}

static void leave(void)
{
	target = called;
	called = 0;
	if (target == floor_now) {
		open();
		return;
	}
	PORTB |= target > floor_now ? UP : DOWN;
	state = MOVING;
	left = 120;
}

static void tick(void)
{
	switch (state) {
	case RESTING:
		if (called)
			leave();
		break;
	case MOVING:
		if (--left > 0)
			break;
		if (target > floor_now)
			floor_now++;
		else
			floor_now--;
		PORTD = figures[floor_now];
		if (floor_now == target)
			open();
		else
			left = 120;
		break;
	case OPEN:
		if (--left > 0)
			break;
		PORTB &= ~DOOR;
		state = RESTING;
		break;
	}
}

int main(void)
{
	DDRD = 0x7f;
	DDRB = UP | DOWN | DOOR;
	PORTC = 0x0f;
	PORTD = figures[floor_now];
	for (;;) {
		keys();
		tick();
		_delay_ms(10);
	}
}
