/* Speed: everything in a timer interrupt, main does nothing. */
#include <avr/io.h>
#include <avr/interrupt.h>
ISR(TIMER1_COMPA_vect) { PINB = 1; }
int main(void) { DDRB = 1; TCCR1B = _BV(WGM12) | _BV(CS11); OCR1A = 9999; TIMSK1 = _BV(OCIE1A); sei(); for (;;) ; }
