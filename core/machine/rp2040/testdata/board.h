/* What the test programs share: registers by the datasheet, and the clocks as most programs set them. */
#include <stdint.h>
#define REG(a) (*(volatile uint32_t *)(a))
#define SET(a) REG((a) + 0x2000)
#define CLR(a) REG((a) + 0x3000)
#define RESETS 0x4000c000
#define CLOCKS 0x40008000
#define XOSC 0x40024000
#define PLL_SYS 0x40028000
#define IO 0x40014000
#define PADS 0x4001c000
#define TIMER 0x40054000
#define WATCHDOG 0x40058000
#define UART0 0x40034000
#define PWM 0x40050000
#define ADC 0x4004c000
#define SIO 0xd0000000

static inline void release(uint32_t bits)
{
	CLR(RESETS) = bits;
	while (~REG(RESETS + 8) & bits)
		;
}

/* 125 MHz out of a crystal of 12 MHz; the timer counts microseconds. */
static void clocks(void)
{
	REG(XOSC + 0xc) = 47;
	REG(XOSC) = 0xfabaa0;
	while (!(REG(XOSC + 4) >> 31))
		;
	REG(CLOCKS + 0x30) = 2;
	while (REG(CLOCKS + 0x38) != 4)
		;
	release(1 << 12);
	REG(PLL_SYS + 8) = 125;
	CLR(PLL_SYS + 4) = 0x21;
	while (!(REG(PLL_SYS) >> 31))
		;
	REG(PLL_SYS + 0xc) = 6 << 16 | 2 << 12;
	CLR(PLL_SYS + 4) = 8;
	REG(CLOCKS + 0x3c) = 1;
	while (REG(CLOCKS + 0x44) != 2)
		;
	REG(CLOCKS + 0x48) = 1 << 11;
	REG(WATCHDOG + 0x2c) = 1 << 9 | 12;
	release(1 << 5 | 1 << 8 | 1 << 21);
}

static inline void output(int pin)
{
	REG(IO + 8 * pin + 4) = 5;
	REG(SIO + 0x24) = 1u << pin;
}

static inline uint64_t now(void)
{
	uint32_t high = REG(TIMER + 0x24), low, again;
	do {
		again = high;
		low = REG(TIMER + 0x28);
		high = REG(TIMER + 0x24);
	} while (high != again);
	return (uint64_t)high << 32 | low;
}

static void wait_us(uint64_t us)
{
	uint64_t until = now() + us;
	while (now() < until)
		;
}
