#include <avr/interrupt.h>
#include <avr/io.h>
#include <util/delay.h>

#define CLK PB0
#define DIO PB1

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static volatile uint16_t left;
static volatile uint16_t ms;
static volatile uint8_t changed = 1;

static void low(uint8_t pin)
{
	DDRB |= _BV(pin);
	_delay_us(3);
}

static void high(uint8_t pin)
{
	DDRB &= ~_BV(pin);
	_delay_us(3);
}

static void start(void)
{
	high(CLK);
	high(DIO);
	low(DIO);
	low(CLK);
}

static void stop(void)
{
	low(CLK);
	low(DIO);
	high(CLK);
	high(DIO);
}

static void send(uint8_t b)
{
	for (uint8_t i = 0; i < 8; i++) {
		if (b & 1)
			high(DIO);
		else
			low(DIO);
		b >>= 1;
		high(CLK);
		low(CLK);
	}
	high(DIO);
	high(CLK);
	low(CLK);
}

static void show(uint16_t seconds)
{
	uint8_t m = seconds / 60;
	uint8_t s = seconds % 60;
	start();
	send(0x40);
	stop();
	start();
	send(0xc0);
	send(m >= 10 ? font[m / 10] : 0);
	send(font[m % 10] | 0x80);
	send(font[s / 10]);
	send(font[s % 10]);
	stop();
	start();
	send(0x8c);
	stop();
}

ISR(TIMER1_COMPA_vect)
{
	static uint8_t stable, down;
	uint8_t now = !(PIND & _BV(PD2));
	if (now != down) {
		if (++stable == 15) {
			down = now;
			stable = 0;
			if (down) {
				left += 30;
				ms = 0;
				changed = 1;
			}
		}
	} else {
		stable = 0;
	}
	if (left && ++ms == 1000) {
		ms = 0;
		left--;
		changed = 1;
	}
}

int main(void)
{
	PORTD = _BV(PD2);
	DDRC = _BV(PC3);
	TCCR1B = _BV(WGM12) | _BV(CS11);
	OCR1A = 1999;
	TIMSK1 = _BV(OCIE1A);
	sei();
	for (;;) {
		if (changed) {
			changed = 0;
			cli();
			uint16_t t = left;
			sei();
			if (t)
				PORTC |= _BV(PC3);
			else
				PORTC &= ~_BV(PC3);
			show(t);
		}
	}
}
