/* G. Mason: the clear button does nothing. RP2040. */
#include "board.h"
#include "ferry.h"

static void send_byte(uint8_t byte)
{
	for (int bit = 7; bit >= 0; bit--) {
		pin_write(DATA, byte >> bit & 1);
		pin_write(CLOCK, true);
		pin_write(CLOCK, false);
	}
}

static void latch(void) { latch_now(); }

int main(void)
{
	unsigned fares = 0;
	bool fare = false, clear = false;

	ferry_begin();
	pin_output(CLOCK);
	pin_output(DATA);
	show(fares);
	for (;;) {
		bool pressed = !pin_read(FARE), cleared = !pin_read(CLEAR);
		if (pressed != fare) {
			fare = pressed;
			if (pressed && fares < 95)
				fares += 5;
			show(fares);
			wait_ms(10);
		}
		if (cleared != clear) {
			clear = cleared;
			show(fares);
			wait_ms(10);
		}
		pin_write(FULL, fares >= 15);
	}
}
