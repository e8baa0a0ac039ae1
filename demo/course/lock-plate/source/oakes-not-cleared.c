/* E. Oakes: what the memory held at power-on stays around the text. */
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
	0x20, 2     /* page addressing */
};

static void page(uint8_t at, uint8_t column)
{
	uint8_t v[] = {0xb0 | at, column & 15, 0x10 | column >> 4};

	commands(v, sizeof v);
}

static void clear(void)
{
	uint8_t at, x;

	for (at = 0; at < 8; at++) {
		page(at, 0);
		start(DATA);
		for (x = 0; x < 128; x++)
			byte(0);
		stop();
	}
}

static void line(uint8_t at, const char *text)
{
	page(at, 10);
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
	line(1, "WHERRY LOCK");
	line(4, "CHAMBER FULL ");
	commands(&on, 1);
	for (;;) {
		_delay_ms(994);
		line(4, "CHAMBER EMPTY");
		_delay_ms(994);
		line(4, "CHAMBER FULL ");
	}
}
