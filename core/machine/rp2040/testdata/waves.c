/* PWM on two pins, one with a count that turns; a conversion that ends; then sleep. */
#include "board.h"
int main(void)
{
	pwm_start(0, 1000, 16384);
	pwm_start(1, 1000, 49152);
	PWM_DIV(1) = 10 << 4 | 8;
	PWM_TOP(1) = 100;
	PWM_CC(1) = 30;
	PWM_CSR(1) = 3;
	GPIO_CTRL(2) = 4;
	static volatile unsigned got;
	got = adc_read(26);
	for (;;)
		wait_for_interrupt();
}
