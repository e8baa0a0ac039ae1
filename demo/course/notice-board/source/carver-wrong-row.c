/* L. Carver: takes the third row for the one at 0x40. */
#include "notice.h"

static void wait(uint8_t control)
{
	TWCR = control | _BV(TWINT) | _BV(TWEN);
	while (!(TWCR & _BV(TWINT)))
		;
}

static void expander(uint8_t v)
{
	wait(_BV(TWSTA));
	TWDR = 0x27 << 1;
	wait(0);
	TWDR = v;
	wait(0);
	TWCR = _BV(TWINT) | _BV(TWEN) | _BV(TWSTO);
	while (TWCR & _BV(TWSTO))
		;
}

int main(void)
{
	TWBR = 72;
	begin();
	row(0x00, "Wherry Lock");
	row(0x40, "Canal closed");
	for (;;) {
		row(0x54, "Stoppage at lock 3");
		_delay_ms(988);
		row(0x54, "Use the side arm  ");
		_delay_ms(988);
	}
}
