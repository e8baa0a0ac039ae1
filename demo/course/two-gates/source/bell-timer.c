/* Timer 1 scans each 4 ms and counts a second; the main loop has nothing to do. */
#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t digits[] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static uint8_t up, down = 30;

ISR(TIMER1_COMPA_vect)
{
	static uint8_t which, ticks;
	PORTG = 0;
	PORTL = 3;
	if (which) {
		PORTA = digits[up % 10];
		PORTC = (uint8_t)~digits[down % 10];
		PORTG = _BV(1);
		PORTL = _BV(0);
	} else {
		PORTA = digits[up / 10];
		PORTC = (uint8_t)~digits[down / 10];
		if (up > 9)
			PORTG = _BV(0);
		if (down > 9)
			PORTL = _BV(1);
	}
	which ^= 1;
	if (++ticks == 250) {
		ticks = 0;
		if (down) {
			up++;
			down--;
		}
	}
}

int main(void)
{
	PORTL = 3;
	DDRA = DDRC = 0x7f;
	DDRG = DDRL = 3;
	TCCR1B = _BV(WGM12) | _BV(CS11) | _BV(CS10);
	OCR1A = 999;
	TIMSK1 = _BV(OCIE1A);
	sei();
	for (;;)
		;
}
