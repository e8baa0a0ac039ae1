#include <avr/io.h>
#include <avr/interrupt.h>
#include <stdint.h>

#define LATCH PB2
#define KEY PC3

static const uint8_t font[4] = { 0x3F, 0x06, 0x5B, 0x4F };

static volatile uint16_t now_ms;

ISR(TIMER0_COMPA_vect)
{
	now_ms++;
}

static uint16_t ms(void)
{
	uint16_t t;
	cli();
	t = now_ms;
	sei();
	return t;
}

static void lamps(uint8_t pattern)
{
	SPDR = pattern;
	while (!(SPSR & (1 << SPIF)))
		;
	PORTB |= 1 << LATCH;
	PORTB &= ~(1 << LATCH);
}

static void digit(uint8_t n)
{
	PORTD = ~font[n];
}

int main(void)
{
	uint8_t mode = 0, step = 0;
	uint8_t stable = 1, last = 1;
	uint16_t changed = 0, stepped = 0;

	DDRB = (1 << PB3) | (1 << PB5) | (1 << LATCH);
	DDRD = 0x7F;
	PORTC = 1 << KEY;
	SPCR = (1 << SPE) | (1 << MSTR);
	TCCR0A = 1 << WGM01;
	OCR0A = 249;
	TIMSK0 = 1 << OCIE0A;
	TCCR0B = (1 << CS01) | (1 << CS00);
	sei();

	lamps(0);
	digit(0);
	while (1) {
		uint16_t t = ms();
		uint8_t level = (PINC >> KEY) & 1;

		if (level != last) {
			last = level;
			changed = t;
		}
		if (level != stable && t - changed >= 20) {
			stable = level;
			if (!stable) {
				mode = (mode + 1) & 3;
				step = 0;
				stepped = t;
				digit(mode);
				switch (mode) {
				case 0: lamps(0x00); break;
				case 1: lamps(0x01); break;
				case 2: lamps(0x55); break;
				case 3: lamps(0xFF); break;
				}
			}
		}

		if (mode == 1 && t - stepped >= 150) {
			stepped += 150;
			step = (step + 1) % 8;
			lamps(1 << step);
		}
		if (mode == 2 && t - stepped >= 400) {
			stepped += 400;
			step = !step;
			lamps(step ? 0xAA : 0x55);
		}
	}
}
