#include <avr/io.h>
#include <util/delay.h>

static void write(uint8_t reg, uint8_t value)
{
	PORTB &= ~(1 << PB2);
	SPDR = reg;
	while (!(SPSR & (1 << SPIF)))
		;
	SPDR = value;
	while (!(SPSR & (1 << SPIF)))
		;
	PORTB |= (1 << PB2);
}

static uint16_t convert(void)
{
	ADCSRA |= (1 << ADSC);
	while (ADCSRA & (1 << ADSC))
		;
	return ADC;
}

int main(void)
{
	DDRB = (1 << PB2) | (1 << PB3) | (1 << PB5);
	DDRD = (1 << PD2);
	PORTB |= (1 << PB2);
	SPCR = (1 << SPE) | (1 << MSTR) | (1 << SPR0);
	ADMUX = (1 << REFS0) | 3;
	ADCSRA = (1 << ADEN) | 7;
	write(0x0f, 0);
	write(0x09, 0x0f);
	write(0x0b, 3);
	write(0x0a, 6);
	write(4, 0x0f);
	write(0x0c, 1);

	for (;;) {
		uint16_t v = (uint32_t)convert() * 500 / 1023;
		write(3, v / 100 | 0x80);
		write(2, v / 10 % 10);
		write(1, v % 10);
		if (v < 120)
			PORTD |= (1 << PD2);
		else
			PORTD &= ~(1 << PD2);
		_delay_ms(50);
	}
}
