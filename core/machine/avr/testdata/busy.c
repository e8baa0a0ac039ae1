/* Everything at once for the equality tests: timers with interrupts and PWM outputs, pin changes,
   watchdog interrupt, USART, counted waits, sleep. */
#include <avr/io.h>
#include <avr/interrupt.h>
#include <avr/sleep.h>
#include <avr/wdt.h>
#include <util/delay.h>
volatile uint32_t ticks;
volatile uint16_t matches, dogs, edges;
ISR(TIMER0_OVF_vect) { ticks++; }
ISR(TIMER1_COMPA_vect) { matches++; PINB = _BV(5); }
ISR(TIMER2_COMPB_vect) { PIND = _BV(7); }
ISR(WDT_vect) { dogs++; WDTCSR |= _BV(WDIE); }
ISR(PCINT1_vect) { edges++; }
ISR(INT0_vect) { edges += 3; }
static uint32_t now(void) { uint8_t s = SREG; cli(); uint32_t t = ticks; uint8_t c = TCNT0; if ((TIFR0 & 1) && c < 255) t++; SREG = s; return (t << 8 | c) * 4; }
static void wait(uint16_t ms) { uint32_t from = now(); while (now() - from < ms * 1000UL) ; }
int main(void) {
	DDRB = 0x3f; DDRD = 0xfa; PORTC = 0x03;
	TCCR0A = 3; TCCR0B = 3; TIMSK0 = 1;
	TCCR1A = _BV(COM1A1) | _BV(COM1B0); TCCR1B = _BV(WGM13) | _BV(CS11); ICR1 = 5000; OCR1A = 1234; OCR1B = 77; TIMSK1 = _BV(OCIE1A);
	TCCR2A = _BV(COM2A0) | _BV(WGM21); TCCR2B = _BV(CS22); OCR2A = 99; OCR2B = 50; TIMSK2 = _BV(OCIE2B);
	EICRA = 1; EIMSK = 1; PCICR = 2; PCMSK1 = 7;
	UBRR0 = 103; UCSR0B = _BV(TXEN0) | _BV(RXEN0);
	cli(); WDTCSR = _BV(WDCE) | _BV(WDE); WDTCSR = _BV(WDIE) | 1; sei();
	for (uint8_t n = 0;; n++) {
		for (uint8_t i = 0; i < 20; i++) { PORTB ^= 1; PORTD = (PORTD & 0x0f) | (n << 4); }
		_delay_ms(3); _delay_us(7);
		wait(2);
		if (UCSR0A & _BV(UDRE0)) UDR0 = n;
		set_sleep_mode(n & 1 ? SLEEP_MODE_IDLE : SLEEP_MODE_PWR_DOWN);
		if (n % 8 == 3) { OCR1A += 321; OCR2A ^= 0x15; TCCR1B ^= _BV(WGM12); }
		if (n % 4 != 2 || dogs < 9) { sleep_enable(); if (n & 1) sleep_cpu(); else if (n % 16 == 0) sleep_cpu(); sleep_disable(); }
		if (n == 200) { CLKPR = 0x80; CLKPR = 1; }
	}
}
