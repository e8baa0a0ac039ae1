/* A pin that turns every 5 ms, by waiting for the timer. */
#include "board.h"
int main(void)
{
	pin_output(25);
	for (;;) {
		pin_toggle(25);
		wait_us(5000);
	}
}
