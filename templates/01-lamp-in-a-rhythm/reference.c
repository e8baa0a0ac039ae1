#include <avr/io.h>
#include <util/delay.h>

static void flash(void)
{
	PORTB |= _BV(PB5);
	_delay_ms(200);
	PORTB &= ~_BV(PB5);
}

int main(void)
{
	DDRB = _BV(PB5);
	for (;;) {
		flash();
		_delay_ms(200);
		flash();
		_delay_ms(1400);
	}
}
