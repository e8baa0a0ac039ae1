/* J. Noble: counts when the button is let go as well. */
#include <avr/io.h>
#include <util/delay.h>

int main(void)
{
	uint8_t was = 0, still = 0;

	DDRB = _BV(0) | _BV(1);
	PORTD = _BV(2);
	PORTB |= _BV(1);
	_delay_us(10);
	PORTB &= ~_BV(1);
	for (;;) {
		_delay_ms(1);
		uint8_t now = !(PIND & _BV(2));
		still = now == was ? 0 : still + 1;
		if (still < 20)
			continue;
		still = 0;
		was = now;
		if (now || !now) {
			PORTB |= _BV(0);
			_delay_us(5);
			PORTB &= ~_BV(0);
		}
	}
}
