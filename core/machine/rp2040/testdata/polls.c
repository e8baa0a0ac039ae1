/* Waits of several kinds: for a pin, SysTick, a 32-bit difference of time, a count, with a lamp for each. */
#include "board.h"
static volatile uint32_t loops;
int main(void)
{
	clocks();
	for (int i = 2; i < 6; i++)
		output(i);
	REG(PADS + 8) = 0x4a;
	REG(0xe000e014) = 124999;
	REG(0xe000e018) = 0;
	REG(0xe000e010) = 5;
	uint32_t last = REG(TIMER + 0x28);
	for (;;) {
		while (!(REG(0xe000e010) >> 16 & 1))
			;
		REG(SIO + 0x1c) = 1u << 2;
		while (REG(TIMER + 0x28) - last < 3000) {
			if (!(REG(SIO + 4) & 2))
				REG(SIO + 0x18) = 1u << 3;
		}
		last += 3000;
		REG(SIO + 0x1c) = 1u << 4;
		for (loops = 0; loops < 20000; loops++)
			;
		uint16_t n = 5000;
		while (--n)
			__asm volatile("nop");
		REG(SIO + 0x1c) = 1u << 5;
		while (REG(0xe000e018) > 60000)
			;
	}
}
