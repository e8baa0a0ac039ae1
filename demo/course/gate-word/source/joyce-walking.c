/* E. Joyce: the prescaler is 1024, and the digits walk. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>

static const uint8_t words[2][4] = {{0x3f, 0x73, 0x79, 0x54}, {0x6d, 0x76, 0x3e, 0x78}};
static volatile uint8_t shut;

ISR(PCINT1_vect) { shut = PINC & _BV(0); }

ISR(TIMER0_COMPA_vect)
{
	static uint8_t digit;

	PORTB = 0x0f;
	digit = (digit + 1) & 3;
	PORTD = ~words[shut][digit] & 0x7f;
	PORTB = 0x0f & ~_BV(digit);
}

int main(void)
{
	DDRD = 0x7f;
	DDRB = 0x0f;
	PORTB = 0x0f;
	PORTC = _BV(0);
	PCICR = _BV(PCIE1);
	PCMSK1 = _BV(PCINT8);
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS02) | _BV(CS00);
	OCR0A = 249;
	TIMSK0 = _BV(OCIE0A);
	shut = 1;
	sei();
	for (;;)
		sleep_mode();
}
