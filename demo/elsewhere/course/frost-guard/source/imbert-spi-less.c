#include <avr/io.h>
#include <util/delay.h>

#define SER PD5
#define CLK PD6
#define LATCH PD7

static const uint8_t pattern[11] = {
	0b00111111, 0b00000110, 0b01011011, 0b01001111, 0b01100110,
	0b01101101, 0b01111101, 0b00000111, 0b01111111, 0b01101111,
	0b00000000,
};

static void send(uint8_t value)
{
	for (int8_t bit = 7; bit >= 0; bit--) {
		if (value & (1 << bit))
			PORTD |= (1 << SER);
		else
			PORTD &= ~(1 << SER);
		PORTD |= (1 << CLK);
		PORTD &= ~(1 << CLK);
	}
}

static uint16_t measure(void)
{
	ADCSRA |= (1 << ADSC);
	while (ADCSRA & (1 << ADSC))
		;
	return ADC;
}

int main(void)
{
	DDRD = (1 << SER) | (1 << CLK) | (1 << LATCH);
	DDRB = (1 << PB1);
	ADMUX = (1 << REFS0) | 4;
	ADCSRA = (1 << ADEN) | (1 << ADPS2) | (1 << ADPS1) | (1 << ADPS0);
	while (1) {
		uint32_t mv = (uint32_t)measure() * 5000 / 1024;
		uint8_t degrees = (mv + 3) / 20;
		uint8_t tens = degrees / 10;
		if (tens == 0)
			tens = 10;
		send(~pattern[tens]);
		send(~pattern[degrees % 10]);
		PORTD |= (1 << LATCH);
		PORTD &= ~(1 << LATCH);
		if (mv < 98)
			PORTB |= (1 << PB1);
		else
			PORTB &= ~(1 << PB1);
		_delay_ms(20);
	}
}
