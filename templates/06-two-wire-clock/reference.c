#include <avr/io.h>
#include <util/delay.h>

#define CLK PB0
#define DIO PB1

static const uint8_t figure[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

/* The lines have pull-ups: a pin is an output only while it is low. */
static void line(uint8_t pin, uint8_t high)
{
	if (high)
		DDRB &= ~_BV(pin);
	else
		DDRB |= _BV(pin);
	_delay_us(3);
}

static void begin(void)
{
	line(DIO, 0);
	line(CLK, 0);
}

static void end(void)
{
	line(DIO, 0);
	line(CLK, 1);
	line(DIO, 1);
}

static void send(uint8_t b)
{
	for (uint8_t i = 0; i < 8; i++, b >>= 1) {
		line(DIO, b & 1);
		line(CLK, 1);
		line(CLK, 0);
	}
	line(DIO, 1);
	line(CLK, 1);
	line(CLK, 0);
}

static void show(uint16_t seconds)
{
	uint8_t m = seconds / 60 % 100, s = seconds % 60;
	begin();
	send(0x40);
	end();
	begin();
	send(0xc0);
	send(figure[m / 10]);
	send(figure[m % 10] | 0x80);
	send(figure[s / 10]);
	send(figure[s % 10]);
	end();
	begin();
	send(0x8c);
	end();
}

int main(void)
{
	uint16_t seconds = 0;
	uint8_t down = 0;
	PORTD = _BV(PD2);
	TCCR1B = _BV(WGM12) | _BV(CS12) | _BV(CS10);
	OCR1A = 15624;
	show(0);
	for (;;) {
		if (TIFR1 & _BV(OCF1A)) {
			TIFR1 = _BV(OCF1A);
			show(++seconds);
		}
		uint8_t now = !(PIND & _BV(PD2));
		if (now != down) {
			down = now;
			if (down) {
				seconds = 0;
				TCNT1 = 0;
				show(0);
			}
			_delay_ms(20);
		}
	}
}
