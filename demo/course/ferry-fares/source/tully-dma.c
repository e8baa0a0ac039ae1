/* C. Tully: DMA feeds SPI0 fifty times a second; the buttons' edges come as interrupts. RP2040. */
#include "board.h"
#include "ferry.h"

#define DMA(offset) REG(0x50000000 + (offset))

static volatile unsigned fares;
static uint16_t word;

static void send_byte(uint8_t byte) { word = (uint16_t)(word << 8 | byte); }

/* The word goes out by DMA, channel 0, at the pace of SPI0; the latch comes when that has sent it. */
static void latch(void)
{
	DMA(0x00) = (uint32_t)&word;
	DMA(0x04) = 0x4003c008;
	DMA(0x08) = 1;
	DMA(0x0c) = 16 << 15 | 1 << 2 | 1 << 0;
	while (DMA(0x0c) & 1 << 24 || SPI0_SR & 1 << 4)
		;
	latch_now();
}

static void pressed(void)
{
	static uint64_t last;
	uint64_t now = time_us();
	if (now - last > 20000) {
		if (!pin_read(FARE) && fares < 95)
			fares += 5;
		if (!pin_read(CLEAR))
			fares = 0;
	}
	last = now;
}

int main(void)
{
	ferry_begin();
	spi_begin(16);
	REG_CLR(RESETS_RESET) = 1 << 2;
	while (!(RESETS_RESET_DONE & 1 << 2))
		;
	SPI0_DMACR = 2;
	pin_interrupt(FARE, FALLING | RISING, pressed);
	pin_interrupt(CLEAR, FALLING | RISING, pressed);
	for (;;) {
		show(fares);
		pin_write(FULL, fares >= 15);
		wait_ms(20);
	}
}
