#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdbool.h>

static volatile uint8_t light = 1;
static volatile bool outward = true;

ISR(TIMER1_COMPA_vect)
{
	if (outward) {
		light <<= 1;
		if (light == 0x80)
			outward = false;
	} else {
		light >>= 1;
		if (light == 0x01)
			outward = true;
	}
	PORTD = light;
}

int main(void)
{
	DDRD = 0xff;
	PORTD = light;
	OCR1A = 37499;
	TCCR1B = _BV(WGM12) | _BV(CS11) | _BV(CS10);
	TIMSK1 = _BV(OCIE1A);
	sei();
	while (true) {
	}
}
