#include <avr/io.h>
#include <util/delay.h>

#define RUN   PB0
#define WAIT  PB2
#define DRAIN PB4

static void lamps(uint8_t which)
{
	PORTB &= ~((1 << RUN) | (1 << WAIT) | (1 << DRAIN));
	PORTB |= which;
}

static void buzz(uint16_t ms)
{
	uint16_t waves = ms * 8 / 10;
	for (uint16_t i = 0; i < waves; i++) {
		PORTD |= (1 << PD6);
		_delay_us(625);
		PORTD &= ~(1 << PD6);
		_delay_us(625);
	}
}

int main(void)
{
	DDRB |= (1 << RUN) | (1 << WAIT) | (1 << DRAIN);
	DDRD |= (1 << PD6);

	while (1) {
		lamps(1 << RUN);
		_delay_ms(1500);
		lamps(1 << WAIT);
		_delay_ms(500);
		lamps(1 << DRAIN);
		buzz(1000);
		lamps(0);
		_delay_ms(300);
	}
}
