/* O. Wyatt: the prompt comes with the first pull only. */
#include "winch.h"

int main(void)
{
	uint8_t level = 51, was = 0;

	begin();
	for (;;) {
		uint8_t held = HELD != 0;

		if (held && !was)
			say("winch> up\n");
		was = held;
		if (!held)
			level = 51;
		if (HELD && level < 255)
			level += 1;
		OCR1A = level;
		_delay_ms(4.9);
	}
}
