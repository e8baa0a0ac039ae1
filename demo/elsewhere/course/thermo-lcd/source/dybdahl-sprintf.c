#include <avr/io.h>
#include <stdio.h>
#include <util/delay.h>

static void nib(uint8_t v)
{
	PORTD = (PORTD & 0x0f) | (v & 0xf0);
	PORTB |= 2;
	_delay_us(2);
	PORTB &= ~2;
	_delay_us(60);
}

static void out(uint8_t rs, uint8_t v)
{
	if (rs)
		PORTB |= 1;
	else
		PORTB &= ~1;
	nib(v);
	nib(v << 4);
	if (!rs)
		_delay_ms(2);
}

static void print(uint8_t at, const char *s)
{
	out(0, 0x80 | at);
	while (*s)
		out(1, *s++);
}

int main(void)
{
	char line[17];
	uint16_t most = 0;

	DDRB = 3;
	DDRD = 0xf0;
	ADMUX = _BV(REFS1) | _BV(REFS0);
	ADCSRA = _BV(ADEN) | 7;
	_delay_ms(50);
	nib(0x30);
	_delay_ms(5);
	nib(0x30);
	_delay_ms(1);
	nib(0x30);
	nib(0x20);
	out(0, 0x28);
	out(0, 0x0c);
	out(0, 0x06);
	out(0, 0x01);
	for (;;) {
		uint32_t sum = 0;
		for (uint8_t i = 0; i < 16; i++) {
			ADCSRA |= _BV(ADSC);
			while (ADCSRA & _BV(ADSC))
				;
			sum += ADC;
		}
		uint16_t tenths = sum * 1100 / 16384;
		if (tenths > most)
			most = tenths;
		sprintf(line, "Now %2u.%u C", tenths / 10, tenths % 10);
		print(0, line);
		sprintf(line, "Max %2u.%u C", most / 10, most % 10);
		print(0x40, line);
		_delay_ms(200);
	}
}
