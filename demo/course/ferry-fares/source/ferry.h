/* The ferry on an RP2040: buttons and lamp, and the chain at SPI0. */
#include "board.h"
#include "chain.h"

enum { LATCH = 17, CLOCK = 18, DATA = 19, FARE = 14, CLEAR = 15, FULL = 16 };

#define SPI0_CR0 REG(0x4003c000)
#define SPI0_CR1 REG(0x4003c004)
#define SPI0_DR REG(0x4003c008)
#define SPI0_SR REG(0x4003c00c)
#define SPI0_CPSR REG(0x4003c010)
#define SPI0_DMACR REG(0x4003c024)

/* 1 MHz, frames of so many bits. */
static inline void spi_begin(unsigned bits)
{
	REG_CLR(RESETS_RESET) = 1 << 16;
	while (!(RESETS_RESET_DONE & 1 << 16))
		;
	SPI0_CR0 = bits - 1;
	SPI0_CPSR = 124;
	SPI0_CR1 = 2;
	GPIO_CTRL(CLOCK) = GPIO_CTRL(DATA) = 1;
}

static inline void ferry_begin(void)
{
	pin_output(LATCH);
	pin_output(FULL);
	pin_input(FARE, PULL_UP);
	pin_input(CLEAR, PULL_UP);
}

static inline void latch_now(void)
{
	pin_write(LATCH, true);
	pin_write(LATCH, false);
}
