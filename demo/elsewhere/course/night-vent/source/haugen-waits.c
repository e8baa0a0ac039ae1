#define F_CPU 16000000UL
#include <avr/io.h>
#include <util/delay.h>

#define RS (1 << 7)
#define E (1 << 6)

static void half(uint8_t rs, uint8_t n)
{
	uint8_t out = rs ? RS : 0;
	if (n & 1) out |= 1 << 5;
	if (n & 2) out |= 1 << 4;
	if (n & 4) out |= 1 << 3;
	if (n & 8) out |= 1 << 2;
	PORTD = out | E;
	_delay_us(2);
	PORTD = out;
	_delay_us(2);
}

static void lcd(uint8_t rs, uint8_t byte)
{
	half(rs, byte >> 4);
	half(rs, byte & 15);
	_delay_us(60);
}

static void text(const char *s)
{
	while (*s)
		lcd(1, *s++);
}

static void start(void)
{
	_delay_ms(50);
	half(0, 3);
	_delay_ms(5);
	half(0, 3);
	_delay_ms(1);
	half(0, 3);
	_delay_ms(1);
	half(0, 2);
	_delay_ms(1);
	lcd(0, 0x28);
	lcd(0, 0x0c);
	lcd(0, 0x06);
	lcd(0, 0x01);
	_delay_ms(2);
}

static uint16_t degrees(void)
{
	uint32_t sum = 0;
	for (uint8_t i = 0; i < 8; i++) {
		ADCSRA |= 1 << ADSC;
		while (ADCSRA & (1 << ADSC))
			;
		sum += ADC;
	}
	return sum * 500 / 8192;
}

int main(void)
{
	uint8_t open = 0;
	DDRD = 0xfc;
	DDRB = 1 << PB2;
	ADMUX = 1 << REFS0;
	ADCSRA = (1 << ADEN) | 7;
	start();
	text("Air");
	lcd(0, 0xc0);
	text("Vent");
	for (;;) {
		uint16_t t = degrees();
		if (t >= 26)
			open = 1;
		if (t < 22)
			open = 0;
		if (open)
			PORTB |= 1 << PB2;
		else
			PORTB &= ~(1 << PB2);
		lcd(0, 0x84);
		lcd(1, t >= 100 ? '0' + t / 100 : ' ');
		lcd(1, t >= 10 ? '0' + t / 10 % 10 : ' ');
		lcd(1, '0' + t % 10);
		text(" C");
		lcd(0, 0xc5);
		text(open ? "open" : "shut");
		_delay_ms(200);
	}
}
