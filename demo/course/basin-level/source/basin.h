/* The basin's display: 16 by 2 behind a PCF8574, SDA at GP4, SCL at GP5; its key at GP14. */
#include "board.h"
#include <stdio.h>

#define STEP 14

#ifndef ADDRESS
#define ADDRESS 0x27
#endif
#ifndef LIGHT
#define LIGHT 8
#endif
#ifndef SECOND_ROW
#define SECOND_ROW 0x40
#endif
#ifndef LINE
#define LINE "%u steps "
#endif
#ifndef LAST
#define LAST 10
#endif

/* Half a byte, with the pulse at E that takes it in. */
static void half(uint8_t n, bool rs)
{
	uint8_t v = n << 4 | LIGHT | rs;
	uint8_t bytes[] = {v, v | 4, v};
	i2c_write(ADDRESS, bytes, 3);
}

static void put(uint8_t b, bool rs)
{
	half(b >> 4, rs);
	half(b & 15, rs);
	wait_us(60);
}

static void print(uint8_t at, const char *text)
{
	put(0x80 | at, 0);
	while (*text)
		put(*text++, 1);
}

static void show(unsigned steps)
{
	char line[17];
	snprintf(line, sizeof line, LINE, steps);
	print(SECOND_ROW, line);
}

static void begin(void)
{
	pin_input(STEP, PULL_UP);
	i2c_start(4, 100000);
	wait_ms(50);
	for (int i = 0; i < 3; i++) {
		half(3, 0);
		wait_ms(5);
	}
	half(2, 0);
	wait_ms(1);
	put(0x28, 0);
	put(0x0c, 0);
	put(0x01, 0);
	wait_ms(3);
	put(0x06, 0);
	print(0, "Basin level");
}

static unsigned following(unsigned n) { return n == LAST ? 0 : n + 1; }
