#include <avr/io.h>
#include <avr/interrupt.h>
#include <avr/pgmspace.h>

#define MOTOR (1 << PB0)
#define GROUND (1 << PB2)

enum state { STANDS, RIDES_UP, RIDES_DOWN };

static const unsigned char digits[4] PROGMEM = { 0xC0, 0xF9, 0xA4, 0xB0 };

static volatile unsigned int ms;
static volatile unsigned char floor_ = 0;
static volatile enum state state = STANDS;
static volatile unsigned int gong;
static volatile unsigned char debounced, counts[2];

/* 1 kHz */
ISR(TIMER2_COMPA_vect)
{
	unsigned char i, pins = ~PINC & 3;

	for (i = 0; i < 2; i++) {
		if (((pins >> i) & 1) == ((debounced >> i) & 1))
			counts[i] = 0;
		else if (++counts[i] == 8) {
			debounced ^= 1 << i;
			counts[i] = 0;
			if ((debounced >> i) & 1) {
				if (state == STANDS && i == 0 && floor_ < 3) {
					state = RIDES_UP;
					ms = 0;
				}
				if (state == STANDS && i == 1 && floor_ > 0) {
					state = RIDES_DOWN;
					ms = 0;
				}
			}
		}
	}

	if (state != STANDS) {
		if ((ms / 100) % 2 == 0)
			PORTB |= MOTOR;
		else
			PORTB &= ~MOTOR;
		if (++ms == 1200) {
			if (state == RIDES_UP)
				floor_++;
			else
				floor_--;
			state = STANDS;
			PORTB &= ~MOTOR;
			gong = 300;
		}
	}

	if (gong) {
		gong--;
		TCCR1A = 1 << COM1A0;
	} else {
		TCCR1A = 0;
		PORTB &= ~(1 << PB1);
	}

	if (state == STANDS && floor_ == 0)
		PORTB |= GROUND;
	else
		PORTB &= ~GROUND;
	PORTD = pgm_read_byte(&digits[floor_]);
}

int main(void)
{
	DDRD = 0x7F;
	DDRB = 0x07;
	PORTC = 0x03;

	OCR1A = 8000000UL / 2 / 880 - 1;
	TCCR1B = 1 << WGM12 | 1 << CS10;

	OCR2A = 124;
	TCCR2A = 1 << WGM21;
	TCCR2B = 1 << CS22;
	TIMSK2 = 1 << OCIE2A;
	sei();
	for (;;)
		;
}
