/* The real-time clock, with seconds of 10 ms: its alarm turns a pin, and the last second of a year is waited for. */
#include "board.h"

#define RTC(offset) REG(0x4005c000 + (offset))

void RTC_IRQ(void)
{
	pin_toggle(2);
	RTC(0x24) = 0; /* until the second is over */
}

int main(void)
{
	pin_output(2);
	pin_output(3);
	REG(0x40008070) = 256 << 8;
	REG(0x4000806c) = 1 << 11 | 3 << 5; /* CLK_RTC: the crystal, 46,875 Hz */
	REG_CLR(RESETS_RESET) = 1 << 15;
	while (!(RESETS_RESET_DONE & 1 << 15))
		;
	RTC(0x00) = 468;
	RTC(0x04) = 2023 << 12 | 12 << 8 | 31;
	RTC(0x08) = 0 << 24 | 23 << 16 | 59 << 8 | 50;
	RTC(0x0c) = 1 << 4;
	RTC(0x0c) = 1;
	RTC(0x14) = 1 << 28 | 55; /* at 55 seconds */
	RTC(0x10) = 1 << 28;
	RTC(0x24) = 1;
	NVIC_ISER = 1 << 25;
	while ((RTC(0x1c) & 0x3f) || RTC(0x18) >> 12 != 2024)
		;
	for (;;) {
		pin_toggle(3);
		uint32_t second = RTC(0x1c) & 0x3f;
		while ((RTC(0x1c) & 0x3f) == second)
			;
		RTC(0x24) = 1;
	}
}
