/* Waits of several kinds: for a pin, SysTick, a 32-bit difference of time, a count, with a lamp for each. */
#include "board.h"
static volatile uint32_t loops;
int main(void)
{
	for (int i = 2; i < 6; i++)
		pin_output(i);
	PADS_GPIO(1) = 0x4a;
	SYST_RVR = 124999;
	SYST_CVR = 0;
	SYST_CSR = 5;
	uint32_t last = TIMER_TIMERAWL;
	for (;;) {
		while (!(SYST_CSR >> 16 & 1))
			;
		pin_toggle(2);
		while (TIMER_TIMERAWL - last < 3000) {
			if (!pin_read(1))
				SIO_GPIO_OUT_CLR = 1u << 3;
		}
		last += 3000;
		pin_toggle(4);
		for (loops = 0; loops < 20000; loops++)
			;
		uint16_t n = 5000;
		while (--n)
			__asm volatile("nop");
		pin_toggle(5);
		while (SYST_CVR > 60000)
			;
	}
}
