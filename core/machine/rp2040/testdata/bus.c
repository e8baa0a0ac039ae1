/* Writes on a two-wire bus where nobody answers, between waits, with the outcome at a pin. */
#include "board.h"
#define I2C 0x40044000
int main(void)
{
	clocks();
	output(16);
	release(1 << 3);
	REG(PADS + 4 + 4 * 4) = REG(PADS + 4 + 4 * 5) = 0x5a;
	REG(IO + 8 * 4 + 4) = REG(IO + 8 * 5 + 4) = 3;
	REG(I2C) = 0x165;
	REG(I2C + 0x1c) = 500;
	REG(I2C + 0x20) = 750;
	REG(I2C + 4) = 0x27;
	REG(I2C + 0x6c) = 1;
	for (;;) {
		REG(I2C + 0x10) = 0x5a;
		REG(I2C + 0x10) = 0xa5 | 1 << 9;
		while (!(REG(I2C + 0x34) & 1 << 9))
			;
		(void)REG(I2C + 0x60);
		if (REG(I2C + 0x80) & 1)
			REG(SIO + 0x1c) = 1u << 16;
		(void)REG(I2C + 0x54);
		wait_us(2000);
	}
}
