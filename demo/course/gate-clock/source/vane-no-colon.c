/* O. Vane: the colon is missing. */
#include "tm1637.h"
#include <avr/interrupt.h>

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static uint8_t hour = 11, minute = 58;
static volatile uint8_t passed;

ISR(TIMER1_COMPA_vect) { passed = 1; }

static void send(uint8_t v)
{
	for (uint8_t i = 0; i < 8; i++, v >>= 1) {
		dio(v & 1);
		clk(1);
		clk(0);
	}
	dio(1);
	clk(1);
	clk(0);
}

static uint8_t keys(void)
{
	uint8_t v = 0;

	start();
	send(0x42);
	for (uint8_t i = 0; i < 8; i++) {
		clk(1);
		v = v >> 1 | (PIND & _BV(3) ? 0x80 : 0);
		clk(0);
	}
	clk(1);
	clk(0);
	stop();
	return v;
}

static void digit(uint8_t place, uint8_t segments)
{
	start();
	send(0xc0 | place);
	send(segments);
	stop();
}

static void show(void)
{
	start();
	send(0x44);
	stop();
	digit(0, hour < 10 ? 0 : font[hour / 10]);
	digit(1, font[hour % 10]);
	digit(2, font[minute / 10]);
	digit(3, font[minute % 10]);
	start();
	send(0x88 | 7);
	stop();
}

int main(void)
{
	TCCR1B = _BV(WGM12) | _BV(CS12);
	OCR1A = 62499;
	TIMSK1 = _BV(OCIE1A);
	sei();
	show();
	for (;;) {
		if (keys() == 0xf7) {
			hour = 12;
			minute = 0;
			TCNT1 = 0;
			show();
		}
		if (!passed)
			continue;
		passed = 0;
		if (++minute > 59) {
			minute = 0;
			if (++hour > 12)
				hour = 1;
		}
		show();
	}
}
