/* honey scale, by Mikkel */
#define F_CPU 16000000UL
#include <avr/io.h>
#include <util/delay.h>
#include <stdint.h>

#define FULL   PB0
#define OVER   PB1
#define RS     PB4
#define EN     PB5
#define DONE   PD2
#define TARE   PD3
#define CRATE  12

static void strobe(void)
{
	PORTB |= 1 << EN;
	_delay_us(1);
	PORTB &= ~(1 << EN);
	_delay_us(50);
}

static void write4(uint8_t v)
{
	PORTD = (PORTD & 0x0f) | (v & 0xf0);
	strobe();
}

static void command(uint8_t v)
{
	PORTB &= ~(1 << RS);
	write4(v);
	write4(v << 4);
	if (v < 4)
		_delay_ms(2);
}

static void letter(char v)
{
	PORTB |= 1 << RS;
	write4(v);
	write4(v << 4);
}

static void start(void)
{
	_delay_ms(40);
	write4(0x30);
	_delay_ms(5);
	write4(0x30);
	_delay_us(150);
	write4(0x30);
	write4(0x20);
	command(0x28);
	command(0x0c);
	command(0x01);
	command(0x06);
}

static void words(uint8_t at, const char *s)
{
	command(0x80 | at);
	while (*s)
		letter(*s++);
}

static void four(uint16_t n)
{
	char out[4];
	for (int8_t i = 3; i >= 0; i--) {
		out[i] = (n || i == 3) ? '0' + n % 10 : ' ';
		n /= 10;
	}
	for (uint8_t i = 0; i < 4; i++)
		letter(out[i]);
}

static uint16_t grams(void)
{
	ADCSRA |= 1 << ADSC;
	while (ADCSRA & (1 << ADSC))
		;
	return (uint32_t)ADC * 2000 / 1023;
}

int main(void)
{
	uint16_t weight;
	uint8_t jars = 0;
	uint8_t was = 0;

	DDRB = 1 << FULL | 1 << OVER | 1 << RS | 1 << EN;
	DDRD = 0xf0;
	PORTD = 1 << DONE | 1 << TARE;
	ADMUX = 1 << REFS0 | 3;
	ADCSRA = 1 << ADEN | 7;
	start();
	words(0x00, "Honey");
	words(0x40, "Jars");
	for (;;) {
		weight = grams();
		if (!(PIND & (1 << TARE)))
			weight = 0;
		if (weight >= 500)
			PORTB |= 1 << FULL;
		else
			PORTB &= ~(1 << FULL);
		if (weight > 520)
			PORTB |= 1 << OVER;
		else
			PORTB &= ~(1 << OVER);

		uint8_t is = !(PIND & (1 << DONE));
		if (is && !was && weight >= 500) {
			jars++;
			if (jars == CRATE)
				jars = 0;
		}
		was = is;

		words(0x05, " ");
		command(0x86);
		four(weight);
		words(0x0a, " g");
		words(0x44, "  ");
		command(0xc6);
		four(jars);
		_delay_ms(20);
	}
}
