/* DMA feeds SPI0 from a buffer, over and over; its interrupt begins it again and turns a pin. */
#include "board.h"

#define DMA(offset) REG(0x50000000 + (offset))
#define SPI(offset) REG(0x4003c000 + (offset))

static const uint8_t bytes[16] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f, 1, 2, 4, 8, 16, 32};
static volatile unsigned rounds;

static void begin(void)
{
	DMA(0x00) = (uint32_t)bytes;
	DMA(0x04) = 0x4003c008;
	DMA(0x08) = sizeof bytes;
	DMA(0x0c) = 16 << 15 | 1 << 4 | 1;
}

void DMA_IRQ_0(void)
{
	DMA(0x40c) = 1;
	rounds++;
	pin_toggle(0);
	begin();
}

int main(void)
{
	pin_output(0);
	REG_CLR(RESETS_RESET) = 1 << 16 | 1 << 2;
	while (~RESETS_RESET_DONE & (1 << 16 | 1 << 2))
		;
	SPI(0x00) = 7 | 124 << 8;
	SPI(0x10) = 10; /* 100 kHz */
	SPI(0x24) = 2;
	SPI(0x04) = 2;
	GPIO_CTRL(1) = GPIO_CTRL(2) = GPIO_CTRL(3) = 1;
	DMA(0x404) = 1;
	NVIC_ISER = 1 << 11;
	begin();
	for (;;) {
		unsigned now = rounds;
		while (rounds == now)
			;
		if (now % 50 == 0)
			wait_us(500);
	}
}
