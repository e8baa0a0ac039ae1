/* S. Kirk: segments and rows are not turned round, so that the text hangs upside down. */
#include "plate.h"

static const uint8_t begin[] = {
	0xae,       /* off */
	0xd5, 0x80, /* clock */
	0xa8, 63,   /* 64 rows */
	0xd3, 0,    /* no offset */
	0x40,       /* from line 0 */
	0x8d, 0x14, /* charge pump */
	0xa0, 0xc0,
	0xda, 0x12, /* COM pins */
	0x81, 0xcf, /* contrast */
	0xa4, 0xa6, /* from memory, not inverted */
	0x20, 2     /* page addressing */
};

int main(void)
{
	run(begin, sizeof begin, 1);
}
