#include <avr/io.h>
#include <util/delay.h>

#define RS 0
#define EN 1

void pulse(void)
{
	PORTD |= (1 << EN);
	_delay_us(2);
	PORTD &= ~(1 << EN);
	_delay_us(60);
}

void nibble(unsigned char n)
{
	PORTD = (PORTD & 0x0F) | (n << 4);
	pulse();
}

void byte(unsigned char b)
{
	nibble(b >> 4);
	nibble(b & 0x0F);
}

void cmd(unsigned char c)
{
	PORTD &= ~(1 << RS);
	byte(c);
	if (c < 4)
		_delay_ms(2);
}

void put(char c)
{
	PORTD |= (1 << RS);
	byte(c);
}

void text(const char *s)
{
	while (*s)
		put(*s++);
}

void number(unsigned int n)
{
	put(n >= 100 ? '0' + n / 100 : ' ');
	put(n >= 10 ? '0' + n / 10 % 10 : ' ');
	put('0' + n % 10);
}

unsigned int moisture(void)
{
	unsigned long sum = 0;
	for (int i = 0; i < 8; i++) {
		ADCSRA |= (1 << ADSC);
		while (ADCSRA & (1 << ADSC));
		sum += ADC;
	}
	return sum * 100 / 8184;
}

int main(void)
{
	DDRD = 0xF3;
	DDRB |= (1 << PB1);
	ADMUX = (1 << REFS0) | 1;
	ADCSRA = (1 << ADEN) | (1 << ADPS2) | (1 << ADPS1) | (1 << ADPS0);

	_delay_ms(50);
	nibble(3);
	_delay_ms(5);
	nibble(3);
	_delay_ms(1);
	nibble(3);
	nibble(2);
	cmd(0x28);
	cmd(0x0C);
	cmd(0x06);
	cmd(0x01);

	while (1) {
		unsigned int m = moisture();
		cmd(0x80);
		text("Soil ");
		number(m);
		text(" %");
		cmd(0xC0);
		if (m < 30)
			text("dry ");
		else if (m < 70)
			text("good");
		else
			text("wet ");
		if (m < 30)
			PORTB |= (1 << PB1);
		else
			PORTB &= ~(1 << PB1);
		_delay_ms(100);
	}
}
