#include <avr/interrupt.h>
#include <avr/io.h>

#define SLOW 300
#define FAST 100

static const uint8_t figures[10] = {
	0xc0, 0xf9, 0xa4, 0xb0, 0x99, 0x92, 0x82, 0xf8, 0x80, 0x90
};

static volatile uint16_t left = SLOW;
static uint8_t place;
static int8_t step = 1;
static uint8_t turned;

static void forward(void)
{
	if (step > 0)
		place = place == 5 ? 0 : place + 1;
	else
		place = place == 0 ? 5 : place - 1;
	PORTB = 1 << place;
}

ISR(TIMER0_COMPA_vect)
{
	static uint8_t key, same;

	if (--left == 0) {
		forward();
		left = PINC & 0x02 ? SLOW : FAST;
	}

	uint8_t now = !(PINC & 0x01);
	if (now == key) {
		same = 0;
	} else if (++same == 8) {
		same = 0;
		key = now;
		if (key) {
			step = -step;
			turned = (turned + 1) % 10;
			PORTD = figures[turned];
		}
	}
}

int main(void)
{
	DDRB = 0x3f;
	DDRD = 0x7f;
	PORTC = 0x03;
	PORTB = 1 << place;
	PORTD = figures[turned];

	TCCR0A = 1 << WGM01;
	TCCR0B = 1 << CS01 | 1 << CS00;
	OCR0A = 249;
	TIMSK0 = 1 << OCIE0A;
	sei();
	for (;;)
		;
}
