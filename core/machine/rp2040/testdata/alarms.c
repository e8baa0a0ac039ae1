/* A pin turned by an alarm of the timer while the core waits for events, and one by a key's interrupt. */
#include "board.h"
static volatile uint32_t turns;
void TIMER_IRQ_3(void)
{
	TIMER_INTR = 8;
	TIMER_ALARM(3) = TIMER_ALARM(3) + 2000;
	pin_toggle(16);
	turns++;
}
void IO_IRQ_BANK0(void)
{
	INTR(0) = 4; /* an edge down at GP0 */
	pin_toggle(17);
}
int main(void)
{
	pin_output(16);
	pin_output(17);
	PADS_GPIO(0) = 0x4a; /* pull-up */
	PROC0_INTE(0) = 4;
	TIMER_INTE = 8;
	TIMER_ALARM(3) = TIMER_TIMERAWL + 2000;
	NVIC_ISER = 1 << 3 | 1 << 13;
	for (;;) {
		wait_for_event();
		if (turns == 250)
			return 0;
	}
}
