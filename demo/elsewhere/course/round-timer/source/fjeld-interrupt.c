#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static volatile uint8_t digits[4];
static volatile uint16_t ms, total, hold;
static volatile uint8_t running;

static void split(uint16_t t)
{
	digits[0] = t / 600;
	digits[1] = t / 60 % 10;
	digits[2] = t % 60 / 10;
	digits[3] = t % 10;
}

ISR(TIMER0_COMPA_vect)
{
	static uint8_t at, tick;

	PORTC &= ~0x0f;
	PORTB = font[digits[at]] & 0x3f;
	if (font[digits[at]] & 0x40)
		PORTC |= 0x20;
	else
		PORTC &= ~0x20;
	PORTC |= 1 << at;
	at = (at + 1) & 3;
	if (++tick < 2)
		;
	tick = 0;
	if (running && ++ms == 1000) {
		ms = 0;
		total++;
	}
	if (hold)
		hold--;
	else
		split(total);
}

int main(void)
{
	uint8_t go = 0, lap = 0;

	DDRB = 0x3f;
	DDRC = 0x3f;
	PORTC = 0x10;
	PORTD = _BV(PD2) | _BV(PD3);
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS01) | _BV(CS00);
	OCR0A = 249;
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;) {
		static uint16_t quiet;
		uint8_t g = !(PIND & _BV(PD2)), l = !(PIND & _BV(PD3));

		if (quiet) {
			quiet--;
			continue;
		}
		if (g && !go)
			running = !running;
		if (l && !lap)
			hold = 1500;
		if (g != go || l != lap)
			quiet = 20000;
		go = g;
		lap = l;
	}
}
