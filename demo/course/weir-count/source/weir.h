/* The weir's display: segments a to g at GP0 to GP6, digits at GP8 and GP9; its key at GP14. */
#include "board.h"

#ifndef EIGHT
#define EIGHT 0x7f
#endif

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, EIGHT, 0x6f};

#define LOG 14

#ifndef LEADING
#define LEADING 0
#endif
#ifndef PLACE
#define PLACE(i) (1 - (i))
#endif
#ifndef PULL
#define PULL PULL_UP
#endif
#ifndef LAST
#define LAST 12
#endif

static volatile uint8_t shown[2];

/* Right-aligned, without a leading zero. */
static void show(unsigned n)
{
	shown[PLACE(0)] = font[n % 10];
	shown[PLACE(1)] = n > 9 ? font[n / 10] : LEADING;
}

static void begin(void)
{
	for (unsigned pin = 0; pin < 7; pin++)
		pin_output(pin);
	pin_output(8);
	pin_output(9);
	pin_input(LOG, PULL);
}

/* Lights the next digit. */
static void next_digit(void)
{
	static unsigned digit;
	digit ^= 1;
#ifdef SELECT_FIRST
	pins_write(3 << 8, 1 << (8 + digit));
	wait_us(SELECT_FIRST);
	pins_write(0x7f, shown[digit]);
#else
	pins_write(3 << 8 | 0x7f, 0);
	pins_write(0x7f, shown[digit]);
	pins_write(3 << 8, 1 << (8 + digit));
#endif
}

static unsigned following(unsigned n) { return n == LAST ? 0 : n + 1; }
