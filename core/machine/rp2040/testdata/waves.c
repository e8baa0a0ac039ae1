/* PWM on two pins, one with a count that turns; a conversion, sent out. */
#include "board.h"
int main(void)
{
	clocks();
	release(1 << 14 | 1 << 0 | 1 << 22);
	REG(IO + 4) = REG(IO + 12) = 4; /* GP0, GP1: slice 0, A and B */
	REG(PWM + 4) = 125 << 4;        /* microseconds */
	REG(PWM + 16) = 999;
	REG(PWM + 12) = 750 << 16 | 250;
	REG(PWM) = 1;
	REG(IO + 8 * 2 + 4) = 4; /* GP2: slice 1 A */
	REG(PWM + 20 + 4) = 10 << 4 | 8;
	REG(PWM + 20 + 16) = 100;
	REG(PWM + 20 + 12) = 30;
	REG(PWM + 20) = 3;
	REG(CLOCKS + 0x60) = 1 << 11 | 1 << 5; /* the converter by the system's PLL */
	REG(CLOCKS + 0x64) = 0x100;
	REG(ADC) = 1;
	while (!(REG(ADC) >> 8 & 1))
		;
	REG(ADC) = 1 << 2 | 1;
	while (!(REG(ADC) >> 8 & 1))
		;
	REG(0x20000000) = REG(ADC + 4);
	for (;;)
		__asm volatile("wfi");
}
