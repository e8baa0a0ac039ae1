/* Y. Webb: the chip's SPI sends, the buttons are looked at every 10 ms. ATmega328P. */
#include <avr/io.h>
#include <util/delay.h>
#include "chain.h"

static void send_byte(uint8_t byte)
{
	SPDR = byte;
	while (!(SPSR & _BV(SPIF)))
		;
}

static void latch(void)
{
	PORTB |= _BV(2);
	PORTB &= ~_BV(2);
}

int main(void)
{
	unsigned fares = 0;
	uint8_t was = 0;

	DDRB = _BV(2) | _BV(3) | _BV(5);
	DDRD = _BV(7);
	PORTD = _BV(2) | _BV(3);
	SPCR = _BV(SPE) | _BV(MSTR);
	show(fares);
	for (;;) {
		uint8_t now = ~PIND & (_BV(2) | _BV(3));
		uint8_t pressed = now & ~was;
		was = now;
		if (pressed & _BV(2))
			fares = fares < 95 ? fares + 5 : 95;
		if (pressed & _BV(3))
			fares = 0;
		if (fares >= 15)
			PORTD |= _BV(7);
		else
			PORTD &= ~_BV(7);
		if (pressed)
			show(fares);
		_delay_ms(10);
	}
}
