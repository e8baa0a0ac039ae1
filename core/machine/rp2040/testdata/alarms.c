/* A pin turned by an alarm of the timer while the core waits for events, and one by a key's interrupt. */
#include "board.h"
#define NVIC 0xe000e100
static volatile uint32_t turns;
void timer3_isr(void)
{
	REG(TIMER + 0x34) = 8;
	REG(TIMER + 0x1c) = REG(TIMER + 0x1c) + 2000;
	REG(SIO + 0x1c) = 1u << 16;
	turns++;
}
void pins_isr(void)
{
	REG(IO + 0xf0) = 4; /* an edge down at GP0 */
	REG(SIO + 0x1c) = 1u << 17;
}
int main(void)
{
	clocks();
	output(16);
	output(17);
	REG(PADS + 4) = 0x4a; /* pull-up */
	REG(IO + 0x100) = 4;
	REG(TIMER + 0x38) = 8;
	REG(TIMER + 0x1c) = REG(TIMER + 0x28) + 2000;
	REG(NVIC) = 1 << 3 | 1 << 13;
	for (;;) {
		__asm volatile("wfe");
		if (turns == 250)
			return 0;
	}
}
