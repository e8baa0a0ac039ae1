/* The counter's display: segments a to g at PD0 to PD6, digits 1 to 4 at PB0 to PB3. */
#include <avr/io.h>
#include <stdint.h>
#include <util/delay.h>

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static uint8_t shown[4];

#ifndef LEADING
#define LEADING 0
#endif
#ifndef PLACE
#define PLACE(i) (3 - (i))
#endif

/* Right-aligned, without leading zeros. */
static void digits_set(uint16_t n)
{
	for (uint8_t i = 0; i < 4; i++) {
		shown[PLACE(i)] = n || i == 0 ? font[n % 10] : LEADING;
		n /= 10;
	}
}

static void digits_begin(void)
{
	DDRD = 0x7f;
	DDRB = 0x0f;
	PORTC = _BV(0);
}

/* Lights the next digit. */
static void digits_next(void)
{
	static uint8_t digit;
	digit = (digit + 1) & 3;
#ifdef SELECT_FIRST
	PORTB = 1 << digit;
	_delay_us(400);
	PORTD = shown[digit];
#else
	PORTB = 0;
	PORTD = shown[digit];
	PORTB = 1 << digit;
#endif
}
