/* P. Abbott: one loop, and a wait for each second. */
#include "quay.h"

static void seconds(uint8_t n)
{
	while (n--)
		_delay_ms(1000);
}

int main(void)
{
	begin();
	for (;;) {
		PORTC = RED;
		for (uint8_t n = 12; n > 0; n--) {
			put(n >= 10 ? font[n / 10] : 0, font[n % 10]);
			seconds(1);
		}
		put(0, 0);
		PORTC = RED | AMBER;
		seconds(1);
		PORTC = GREEN;
		seconds(5);
		PORTC = AMBER;
		seconds(2);
	}
}
