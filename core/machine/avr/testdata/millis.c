/* millis() polled with a pin read in the loop */
#include <avr/io.h>
#include <avr/interrupt.h>
volatile uint32_t ms;
ISR(TIMER0_COMPA_vect) { ms++; }
static uint32_t millis(void) { uint8_t s = SREG; cli(); uint32_t t = ms; SREG = s; return t; }
int main(void) {
	DDRB = 1; PORTD = 4; TCCR0A = 2; TCCR0B = 3; OCR0A = 249; TIMSK0 = 2; sei();
	uint32_t last = 0;
	for (;;) { if (millis() - last >= 500) { last += 500; PINB = 1; } if (!(PIND & 4)) PORTB = 0; }
}
