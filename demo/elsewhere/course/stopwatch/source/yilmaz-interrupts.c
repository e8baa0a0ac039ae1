#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdbool.h>

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
#define POINT 0x80

static volatile uint16_t tenths;
static volatile bool running;

static uint8_t pattern(uint8_t place)
{
	uint16_t t = tenths;
	switch (place) {
	case 0:
		return t >= 100 ? font[t / 100] : 0;
	case 1:
		return font[t / 10 % 10] | POINT;
	default:
		return font[t % 10];
	}
}

static bool clicked(uint8_t pin, uint8_t *held)
{
	if (PINC & _BV(pin)) {
		if (*held)
			--*held;
		return false;
	}
	if (*held >= 20)
		return false;
	*held += 1;
	if (*held == 10) {
		*held = 20;
		return true;
	}
	return false;
}

ISR(TIMER0_COMPA_vect)
{
	static uint8_t place, ms, go_held, zero_held;
	PORTB |= 0x07;
	PORTD = ~pattern(place);
	PORTB &= ~_BV(place);
	if (++place == 3)
		place = 0;
	if (clicked(0, &go_held)) {
		running = !running;
		ms = 0;
	}
	if (clicked(1, &zero_held) && !running)
		tenths = 0;
	if (running && ++ms == 100) {
		ms = 0;
		if (++tenths == 1000)
			tenths = 0;
	}
}

int main(void)
{
	DDRD = 0xff;
	PORTB = 0x07;
	DDRB = 0x07;
	PORTC = 0x03;
	TCCR0A = _BV(WGM01);
	OCR0A = 249;
	TCCR0B = _BV(CS01) | _BV(CS00);
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;)
		;
}
