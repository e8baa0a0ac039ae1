/* G. Irwin: horizontal addressing in windows. */
#include "plate.h"

static const uint8_t begin[] = {
	0xae,       /* off */
	0xd5, 0x80, /* clock */
	0xa8, 63,   /* 64 rows */
	0xd3, 0,    /* no offset */
	0x40,       /* from line 0 */
	0x8d, 0x14, /* charge pump */
	0xa1, 0xc8, /* upright */
	0xda, 0x12, /* COM pins */
	0x81, 0xcf, /* contrast */
	0xa4, 0xa6, /* from memory, not inverted */
	0x20, 0     /* horizontal addressing */
};

static void window(uint8_t first, uint8_t last, uint8_t column)
{
	uint8_t v[] = {0x22, first, last, 0x21, column, 127};

	commands(v, sizeof v);
}

static void empty(void)
{
	window(0, 7, 0);
	start(DATA);
	for (uint16_t i = 0; i < 1024; i++)
		byte(0);
	stop();
}

static void words(uint8_t at, const char *text)
{
	window(at, at, 10);
	start(DATA);
	while (*text)
		letter(*text++);
	stop();
}

int main(void)
{
	static const uint8_t on = 0xaf;

	TWBR = 12; /* 400 kHz */
	_delay_ms(10);
	commands(begin, sizeof begin);
	empty();
	words(1, "WHERRY LOCK");
	words(4, "CHAMBER FULL ");
	commands(&on, 1);
	for (;;) {
		_delay_ms(994);
		words(4, "CHAMBER EMPTY");
		_delay_ms(994);
		words(4, "CHAMBER FULL ");
	}
}
