#include <avr/io.h>
#include <util/delay.h>

static const uint8_t levels[4] = {0, 64, 128, 255};

static void strobe(void)
{
	PORTD |= 1 << PD3;
	_delay_us(1);
	PORTD &= ~(1 << PD3);
	_delay_us(50);
}

static void half(uint8_t n)
{
	PORTD = (PORTD & 0x0f) | n << 4;
	strobe();
}

static void command(uint8_t c)
{
	PORTD &= ~(1 << PD2);
	half(c >> 4);
	half(c & 15);
	_delay_ms(2);
}

static void letter(uint8_t c)
{
	PORTD |= 1 << PD2;
	half(c >> 4);
	half(c & 15);
}

static void show(uint8_t step)
{
	const char *t = "Light ";
	command(0x80);
	while (*t)
		letter(*t++);
	letter('0' + step);
	OCR1A = levels[step];
	if (levels[step])
		TCCR1A = (1 << COM1A1) | (1 << WGM10);
	else
		TCCR1A = 1 << WGM10;
}

int main(void)
{
	uint8_t step = 0;

	DDRD = 0xfc;
	DDRB = 1 << PB1;
	PORTB = 1 << PB0;
	TCCR1A = 1 << WGM10;
	TCCR1B = (1 << WGM12) | (1 << CS11) | (1 << CS10);
	_delay_ms(50);
	half(3);
	_delay_ms(5);
	half(3);
	_delay_ms(1);
	half(3);
	half(2);
	command(0x28);
	command(0x0c);
	command(0x01);
	show(step);
	for (;;) {
		if (!(PINB & (1 << PB0))) {
			_delay_ms(10);
			if (!(PINB & (1 << PB0))) {
				step = (step + 1) & 3;
				show(step);
				while (!(PINB & (1 << PB0)))
					;
				_delay_ms(10);
			}
		}
	}
}
