/* PWM on all timers that nobody waits for, and what may meet it: pins of the same ports, levels that are read, outputs
   taken away and given back, pin changes and interrupts for a while, other values and modes, sleep, another clock. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>
#include <util/delay.h>

static volatile uint8_t changes, overflows;

ISR(PCINT2_vect)
{
	changes++;
}

ISR(TIMER0_OVF_vect)
{
	if (!(++overflows & 15))
		PORTC ^= 1;
}

ISR(TIMER2_COMPB_vect)
{
	PORTC ^= 2;
}

static void spread(uint8_t round)
{
	OCR0A = round * 37;
	OCR0B = 255 - round * 11;
	OCR1A = round * 250;
	OCR1B = round * 91;
	OCR2A = round;
	OCR2B = round * 3 + 1;
}

int main(void)
{
	uint8_t seen = 0;

	DDRB = 0x0f;
	DDRC = 0x3f;
	DDRD = 0x78;
	TCCR0A = _BV(COM0A1) | _BV(COM0B1) | _BV(WGM01) | _BV(WGM00);
	TCCR0B = _BV(CS00);
	TCCR1A = _BV(COM1A1) | _BV(COM1B1) | _BV(COM1B0) | _BV(WGM11);
	TCCR1B = _BV(CS10);
	TCCR2A = _BV(COM2A0) | _BV(WGM20);
	TCCR2B = _BV(CS21) | _BV(WGM22);
	sei();
	for (uint8_t round = 0;; round++) {
		spread(round);
		PORTD ^= 1 << 4;
		PORTB ^= 1;
		_delay_us(300);
		seen += PIND + PINB;
		if (round % 5 == 1) {
			DDRD ^= 1 << 6;
			_delay_us(17);
			DDRD ^= 1 << 6;
		}
		if (round % 7 == 2) {
			PCMSK2 = 1 << 5;
			PCICR = 1 << 2;
			_delay_us(90);
			PCICR = 0;
		}
		if (round % 7 == 5) {
			TIMSK0 = _BV(TOIE0);
			TIMSK2 = _BV(OCIE2B);
			_delay_us(700);
			TIMSK0 = 0;
			TIMSK2 = 0;
		}
		if (round % 11 == 3)
			TCCR0A ^= _BV(WGM01) | _BV(COM0A0);
		if (round % 13 == 6)
			TCCR1B = (TCCR1B & ~7) | (round & 3);
		if (round % 17 == 9) {
			CLKPR = 0x80;
			CLKPR = round & 1;
		}
		if (round % 19 == 4) {
			TIMSK1 = _BV(TOIE1);
			TIMSK1 = 0;
			WDTCSR = 0x18;
			TCNT1 = seen;
		}
		if (TCNT2 < 20)
			PORTC ^= 4;
		GTCCR = round % 23 == 8 ? 0x81 : 0;
		PORTC = (PORTC & 7) | changes << 3;
	}
}
