/* O. Vane: SPI0 sends, an alarm every 5 ms looks at the buttons. RP2040. */
#include "board.h"
#include "ferry.h"

static volatile unsigned fares;
static volatile bool changed = true;

static void send_byte(uint8_t byte)
{
	SPI0_DR = byte;
	while (SPI0_SR & 1 << 4)
		;
}

static void latch(void) { latch_now(); }

static void look(void)
{
	static bool fare, clear;
	bool pressed = !pin_read(FARE), cleared = !pin_read(CLEAR);
	if (pressed && !fare && fares < 95)
		fares += 5;
	if (cleared && !clear)
		fares = 0;
	changed = changed || (pressed && !fare) || (cleared && !clear);
	fare = pressed;
	clear = cleared;
}

int main(void)
{
	ferry_begin();
	spi_begin(8);
	every_us(5000, look);
	for (;;) {
		if (changed) {
			changed = false;
			show(fares);
			pin_write(FULL, fares >= 15);
		}
		wait_for_interrupt();
	}
}
