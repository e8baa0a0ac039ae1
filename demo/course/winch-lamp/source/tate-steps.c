/* J. Tate: larger steps, every 50 ms; the last one ends at full. */
#include "winch.h"

int main(void)
{
	uint8_t level = 51, was = 0;

	begin();
	say("winch> ");
	for (;;) {
		uint8_t held = HELD != 0;

		if (held && !was)
			say("up\r\nwinch> ");
		was = held;
		if (!held)
			level = 51;
		if (HELD && level < 255)
			level += (level > 244 ? 255 - level : 11);
		OCR1A = level;
		_delay_ms(50);
	}
}
