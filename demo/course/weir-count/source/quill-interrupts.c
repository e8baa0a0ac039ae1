/* D. Quill: SysTick lights the digits, the key's edge counts, and nothing is left for main(). */
#include "weir.h"

static unsigned logs = 7;
static volatile uint64_t last;

void SYSTICK(void)
{
	next_digit();
}

static void pressed(void)
{
	uint64_t now = time_us();
	if (now - last > 20000 && !pin_read(LOG)) {
		logs = following(logs);
		show(logs);
	}
	last = now;
}

int main(void)
{
	begin();
	show(logs);
	pin_interrupt(LOG, FALLING | RISING, pressed);
	SYST_RVR = 250000 - 1;
	SYST_CVR = 0;
	SYST_CSR = 7;
	for (;;)
		wait_for_interrupt();
}
