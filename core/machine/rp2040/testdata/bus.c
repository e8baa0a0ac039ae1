/* Writes on a two-wire bus where nobody answers, between waits, with the outcome at a pin. */
#include "board.h"
int main(void)
{
	static const uint8_t bytes[] = {0x5a, 0xa5};
	pin_output(16);
	i2c_start(4, 100000);
	for (;;) {
		if (!i2c_write(0x27, bytes, 2))
			pin_toggle(16);
		wait_us(2000);
	}
}
