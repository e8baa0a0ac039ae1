#include <avr/io.h>
#define F 16000000UL
#ifndef F_CPU
#define F_CPU F
#endif
#include <util/delay.h>

#define IN 0
#define OUT 1

static uint8_t seats;

static void show(void)
{
	uint8_t tens = seats / 10;
	uint8_t ones = seats % 10;
	if (tens == 0)
		tens = 15;
	PORTD = tens << 4;
	PORTC = ones;
	if (seats == 25)
		PORTB |= (1 << 2);
	else
		PORTB &= ~(1 << 2);
}

static uint8_t pressed(uint8_t key)
{
	if (PINB & (1 << key))
		return 0;
	_delay_ms(15);
	return !(PINB & (1 << key));
}

int main(void)
{
	DDRD = 0xf0;
	DDRC = 0x0f;
	DDRB = (1 << 2);
	PORTB = (1 << IN) | (1 << OUT);
	show();
	while (1) {
		if (pressed(IN)) {
			if (seats < 25)
				seats++;
			show();
			while (!(PINB & (1 << IN)))
				;
			_delay_ms(15);
		}
		if (pressed(OUT)) {
			if (seats > 0)
				seats--;
			show();
			while (!(PINB & (1 << OUT)))
				;
			_delay_ms(15);
		}
	}
}
