/* Pins by number, through tables of ports, as frameworks write them: with interrupts off for a moment. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <stdint.h>

static const uint8_t ports[14] PROGMEM = { 2, 2, 2, 2, 2, 2, 2, 2, 1, 1, 1, 1, 1, 1 };
static const uint8_t masks[14] PROGMEM = { 1, 2, 4, 8, 16, 32, 64, 128, 1, 2, 4, 8, 16, 32 };

__attribute__((noinline)) static void pin(uint8_t n, uint8_t high)
{
	uint8_t mask = pgm_read_byte(masks + n), port = pgm_read_byte(ports + n);
	volatile uint8_t *out = port == 2 ? &PORTD : &PORTB;
	uint8_t before = SREG;
	cli();
	if (high)
		*out |= mask;
	else
		*out &= ~mask;
	SREG = before;
}

int main(void)
{
	DDRB = 63;
	DDRD = 255;
	TCCR0B = 3;
	TIMSK0 = 1;
	sei();
	for (uint8_t n = 0;; n++) {
		for (uint8_t i = 0; i < 8; i++) {
			pin(11, n >> i & 1);
			pin(13, 1);
			pin(13, 0);
		}
		pin(n & 7, n >> 3 & 1);
	}
}

ISR(TIMER0_OVF_vect)
{
	PORTC ^= 1;
}
