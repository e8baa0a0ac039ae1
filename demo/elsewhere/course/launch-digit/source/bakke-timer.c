#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static volatile uint16_t ms;

ISR(TIMER2_COMPA_vect)
{
	ms++;
}

static uint16_t passed(uint16_t since)
{
	uint16_t now;
	cli();
	now = ms;
	sei();
	return now - since;
}

static uint8_t pressed(void)
{
	static uint8_t before = 1;
	static uint16_t changed;
	uint8_t now = PINC >> PC3 & 1;
	if (now == before || passed(changed) < 30)
		return 0;
	before = now;
	changed = passed(0);
	return !now;
}

static void tone(uint8_t on)
{
	TCCR1A = on ? _BV(COM1B0) : 0;
	if (!on)
		PORTB &= ~_BV(PB2);
}

int main(void)
{
	uint8_t count = 9, running = 0, sounding = 0;
	uint16_t since = 0;

	DDRD = 0xff;
	DDRB = _BV(PB2);
	PORTC = _BV(PC3);
	TCCR2A = _BV(WGM21);
	TCCR2B = _BV(CS22);
	OCR2A = 249;
	TIMSK2 = _BV(OCIE2A);
	TCCR1B = _BV(WGM12) | _BV(CS11);
	OCR1A = 832;
	sei();
	for (;;) {
		if (pressed()) {
			if (running) {
				running = 0;
				count = 9;
			} else if (count == 9) {
				running = 1;
				since = passed(0);
			}
		}
		if (running && passed(since) >= 500) {
			since += 500;
			if (--count == 0) {
				running = 0;
				sounding = 1;
				tone(1);
			}
		}
		if (sounding && passed(since) >= 600) {
			sounding = 0;
			tone(0);
		}
		PORTD = font[count] | (count == 0 ? 0x80 : 0);
	}
}
