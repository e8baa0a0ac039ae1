#include <avr/io.h>
#include <util/delay.h>

#define DIN  PC0
#define CLK  PC1
#define LOAD PC2

static const uint8_t figures[4][5] = {
	{2, 6, 2, 2, 7},
	{6, 1, 2, 4, 7},
	{6, 1, 6, 1, 6},
	{5, 5, 7, 1, 1},
};

static void send(uint8_t reg, uint8_t value)
{
	uint16_t word = (uint16_t)reg << 8 | value;
	PORTC &= ~(1 << LOAD);
	for (uint8_t i = 0; i < 16; i++) {
		if (word & 0x8000)
			PORTC |= 1 << DIN;
		else
			PORTC &= ~(1 << DIN);
		PORTC |= 1 << CLK;
		PORTC &= ~(1 << CLK);
		word <<= 1;
	}
	PORTC |= 1 << LOAD;
}

static void show(uint8_t n)
{
	send(1, 0);
	for (uint8_t i = 0; i < 5; i++)
		send(2 + i, figures[n][i] << 3);
	send(7, 0);
	send(8, 0);
}

static uint8_t key(uint8_t pin)
{
	if (PIND & (1 << pin))
		return 0;
	_delay_ms(10);
	return !(PIND & (1 << pin));
}

int main(void)
{
	uint8_t n = 0;

	DDRC = (1 << DIN) | (1 << CLK) | (1 << LOAD);
	PORTD = (1 << PD2) | (1 << PD3);
	send(0x0f, 0);
	send(0x09, 0);
	send(0x0b, 7);
	send(0x0a, 4);
	show(n);
	send(0x0c, 1);
	while (1) {
		if (key(PD2)) {
			n = n == 3 ? 0 : n + 1;
			show(n);
			while (key(PD2))
				;
			_delay_ms(10);
		}
		if (key(PD3)) {
			n = n == 0 ? 3 : n - 1;
			show(n);
			while (key(PD3))
				;
			_delay_ms(10);
		}
	}
}
