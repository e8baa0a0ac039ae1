/* R. Bowles: the longer notice stays behind the shorter one. */
#include "notice.h"

static void sda(uint8_t high) { if (high) DDRC &= ~_BV(4); else DDRC |= _BV(4); _delay_us(3); }
static void scl(uint8_t high) { if (high) DDRC &= ~_BV(5); else DDRC |= _BV(5); _delay_us(3); }

static void byte(uint8_t v)
{
	for (uint8_t bit = 0x80; bit; bit >>= 1) {
		sda(v & bit);
		scl(1);
		scl(0);
	}
	sda(1);
	scl(1);
	scl(0);
}

static void expander(uint8_t v)
{
	sda(0);
	scl(0);
	byte(0x27 << 1);
	byte(v);
	sda(0);
	scl(1);
	sda(1);
}

int main(void)
{
	uint8_t turn = 0;

	begin();
	row(0x00, "Wherry Lock");
	row(0x14, "Canal closed");
	for (;;) {
		row(0x54, turn ? "Use the side arm" : "Stoppage at lock 3");
		turn = !turn;
		_delay_ms(990);
	}
}
