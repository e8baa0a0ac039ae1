/* A clock of four digits behind a TM1637 that goes on by a minute each minute, its colon by the second. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <util/delay.h>

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static volatile uint8_t passed;

ISR(TIMER1_COMPA_vect) { passed = 1; }

static void clk(uint8_t high) { if (high) DDRD &= ~_BV(2); else DDRD |= _BV(2); _delay_us(3); }
static void dio(uint8_t high) { if (high) DDRD &= ~_BV(3); else DDRD |= _BV(3); _delay_us(3); }
static void start(void) { dio(1); clk(1); dio(0); clk(0); }
static void stop(void) { clk(0); dio(0); clk(1); dio(1); }

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

int main(void)
{
	uint8_t hour = 11, minute = 58, second = 0;

	TCCR1B = _BV(WGM12) | _BV(CS12);
	OCR1A = 62499;
	TIMSK1 = _BV(OCIE1A);
	sei();
	start();
	send(0x8c);
	stop();
	for (;;) {
		start();
		send(0x40);
		stop();
		start();
		send(0xc0);
		send(hour < 10 ? 0 : font[hour / 10]);
		send(font[hour % 10] | (second & 1 ? 0x80 : 0));
		send(font[minute / 10]);
		send(font[minute % 10]);
		stop();
		while (!passed)
			;
		passed = 0;
		if (++second < 60)
			continue;
		second = 0;
		if (++minute == 60) {
			minute = 0;
			hour = hour == 12 ? 1 : hour + 1;
		}
	}
}
