/* The chain of the ferry: what both digits show for a number. send_byte() and latch() are the program's. */
#include <stdint.h>

static const uint8_t figure[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static void send_byte(uint8_t byte);
static void latch(void);

static void show(unsigned fares)
{
	/* QA is the last bit of a byte: the lowest */
	send_byte(fares > 9 ? figure[fares / 10 % 10] : 0);
	send_byte(figure[fares % 10]);
	latch();
}
