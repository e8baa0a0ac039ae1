/* P. Wain: the pin of the green lamp was never made an output. */
#include <avr/io.h>
#include <util/delay.h>

static void red(uint8_t on) { if (on) PORTB |= _BV(0); else PORTB &= ~_BV(0); }
static void green(uint8_t on) { if (on) PORTB &= ~_BV(1); else PORTB |= _BV(1); }

int main(void)
{
	PORTB = _BV(1);
	DDRB = _BV(0);
	for (;;) {
		red(1);
		_delay_ms(3000);
		red(0);
		_delay_ms(500);
		green(1);
		_delay_ms(2000);
		green(0);
		_delay_ms(500);
	}
}
