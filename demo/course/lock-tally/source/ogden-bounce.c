/* B. Ogden: the timer opens the interrupt again at once, and bounce counts. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <util/delay.h>

ISR(INT0_vect)
{
	PORTB |= _BV(0);
	_delay_us(2);
	PORTB &= ~_BV(0);
	EIMSK = 0;
	TCNT1 = 0;
	TIFR1 = _BV(OCF1A);
	TIMSK1 = _BV(OCIE1A);
}

ISR(TIMER1_COMPA_vect)
{
	if (!(PIND & _BV(2)))
		return;
	TIMSK1 = 0;
	EIFR = _BV(INTF0);
	EIMSK = _BV(INT0);
}

int main(void)
{
	DDRB = _BV(0) | _BV(1);
	PORTD = _BV(2);
	PORTB |= _BV(1);
	_delay_us(10);
	PORTB &= ~_BV(1);
	EICRA = _BV(ISC01);
	EIMSK = _BV(INT0);
	TCCR1B = _BV(WGM12) | _BV(CS12);
	OCR1A = 1;
	sei();
	for (;;)
		;
}
