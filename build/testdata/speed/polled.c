/* Speed: waiting by polling a microsecond clock made of timer 0 and its overflow interrupt. */
#include <avr/io.h>
#include <avr/interrupt.h>
volatile uint32_t overflows;
ISR(TIMER0_OVF_vect) { overflows++; }
static uint32_t micros(void) {
	uint8_t s = SREG;
	cli();
	uint32_t t = overflows;
	uint8_t c = TCNT0;
	if ((TIFR0 & 1) && c < 255) t++;
	SREG = s;
	return (t << 8 | c) * 4;
}
int main(void) {
	DDRB = 1; TCCR0B = 3; TIMSK0 = 1; sei();
	uint32_t last = 0;
	for (;;) if (micros() - last >= 5000) { last += 5000; PINB = 1; }
}
