/* P. Lacey: the charge pump is never switched on. */
#include "plate.h"

static const uint8_t begin[] = {
	0xae,       /* off */
	0xd5, 0x80, /* clock */
	0xa8, 63,   /* 64 rows */
	0xd3, 0,    /* no offset */
	0x40,       /* from line 0 */
	/* the charge pump can wait */
	0xa1, 0xc8, /* upright */
	0xda, 0x12, /* COM pins */
	0x81, 0xcf, /* contrast */
	0xa4, 0xa6, /* from memory, not inverted */
	0x20, 2     /* page addressing */
};

int main(void)
{
	run(begin, sizeof begin, 1);
}
