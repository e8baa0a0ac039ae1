/* B. Upton: the ramp takes a fifth of the time. */
#include "winch.h"

int main(void)
{
	uint8_t level = 51, was = 0;

	begin();
	say("winch> ");
	for (;;) {
		uint8_t held = HELD != 0;

		if (held && !was)
			say("up\nwinch> ");
		was = held;
		if (!held)
			level = 51;
		if (HELD && level < 255)
			level += 1;
		OCR1A = level;
		_delay_ms(0.98);
	}
}
