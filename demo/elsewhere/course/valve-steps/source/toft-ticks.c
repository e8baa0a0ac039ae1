#include <avr/io.h>
#include <avr/interrupt.h>
#include <stdint.h>

#define KNOB_A   (1 << PC0)
#define KNOB_B   (1 << PC1)
#define KNOB_P   (1 << PC2)
#define SEG_G    (1 << PC3)
#define MOVING   (1 << PC4)
#define MOST     8
#define STEP_MS  400

static const uint8_t digits[] = {
	0b0111111, 0b0000110, 0b1011011, 0b1001111, 0b1100110,
	0b1101101, 0b1111101, 0b0000111, 0b1111111
};

volatile uint8_t tick;

ISR(TIMER0_COMPA_vect)
{
	tick = 1;
}

static void draw(uint8_t goal, uint8_t valve)
{
	uint8_t d = digits[goal];

	PORTB = d & 0x3f;
	if (d & 0x40)
		PORTC |= SEG_G;
	else
		PORTC &= ~SEG_G;

	PORTD = (1 << valve) - 1;

	if (goal != valve)
		PORTC |= MOVING;
	else
		PORTC &= ~MOVING;
}

int main(void)
{
	uint8_t goal = 2, valve = 2;
	uint8_t a_was = KNOB_A, p_was = 0, quiet = 0, held = 0;
	uint16_t wait = 0;

	DDRB = 0x3f;
	DDRC = SEG_G | MOVING;
	PORTC = KNOB_A | KNOB_B | KNOB_P;
	DDRD = 0xff;

	TCCR0A = 1 << WGM01;
	TCCR0B = (1 << CS01) | (1 << CS00);  /* 16 MHz / 64 */
	OCR0A = 249;                         /* 1 ms */
	TIMSK0 = 1 << OCIE0A;
	sei();

	draw(goal, valve);
	for (;;) {
		while (!tick)
			;
		tick = 0;

		uint8_t a = PINC & KNOB_A;
		if (a == a_was) {
			quiet = 0;
		} else if (++quiet == 2) {
			quiet = 0;
			a_was = a;
			if (!a) {
				if (PINC & KNOB_B) {
					if (goal < MOST)
						goal++;
				} else if (goal > 0) {
					goal--;
				}
			}
		}

		uint8_t p = !(PINC & KNOB_P);
		if (p != p_was && ++held == 10) {
			held = 0;
			p_was = p;
			if (p)
				goal = 0;
		}

		if (goal == valve) {
			wait = 0;
		} else if (++wait == STEP_MS) {
			wait = 0;
			if (valve < goal)
				valve++;
			else
				valve--;
		}
		draw(goal, valve);
	}
}
