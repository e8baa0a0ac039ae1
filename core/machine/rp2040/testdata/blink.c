/* A pin that turns every 5 ms, by waiting for the timer. */
#include "board.h"
int main(void)
{
	clocks();
	output(25);
	for (;;) {
		REG(SIO + 0x1c) = 1u << 25;
		wait_us(5000);
	}
}
