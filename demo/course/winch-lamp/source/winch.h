/* The winch's lamp on OC1A (PB1), its handle on PD2, high while it is held, and its log at 9600 baud. */
#include <avr/io.h>
#include <util/delay.h>

#define HELD (PIND & _BV(2))

static void begin(void)
{
	DDRB = _BV(1);
	TCCR1A = _BV(COM1A1) | _BV(WGM10); /* fast, 8 bits: 244 Hz */
	TCCR1B = _BV(WGM12) | _BV(CS12);
	UBRR0 = 103;
	UCSR0B = _BV(TXEN0);
}

static void say(const char *text)
{
	while (*text) {
		while (!(UCSR0A & _BV(UDRE0)))
			;
		UDR0 = *text++;
	}
}
