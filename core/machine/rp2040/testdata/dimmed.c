/* Lamps are dimmed by PWM at 122 kHz while a pin turns, waits are polled, and a slice's interrupt comes now and then. */
#include "board.h"

static volatile unsigned wraps;
void PWM_IRQ_WRAP(void)
{
	REG(0x400500a4) = 1 << 1;
	wraps++;
}

int main(void)
{
	pin_output(25);
	pwm_start(0, 122070, 0);
	pwm_start(1, 122070, 20000);
	pwm_start(2, 1000, 30000);
	for (unsigned step = 0;; step++) {
		pwm_duty(0, step * 3000 & 0xffff);
		pin_toggle(25);
		if (step == 4) { /* now this one's edges are events */
			REG(0x400500a8) = 1 << 1;
			NVIC_ISER = 1 << 4;
		}
		if (step == 7) {
			REG(0x400500a8) = 0;
			GPIO_CTRL(1) = 5;
		}
		wait_ms(10);
	}
}
