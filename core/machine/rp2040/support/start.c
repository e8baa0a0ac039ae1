/* Start-up: vectors, memory, clocks, main(). When main() returns, the program ends at a breakpoint. */
#include "board.h"
#include <errno.h>
#include <sys/stat.h>

extern uint32_t data_from, data_start, data_end, bss_start, bss_end;
extern char stack_top[];
extern void (*const constructors_from[])(void), (*const constructors_to[])(void);
extern char end;
int main(void);
void start_program_here(void);

static void unused(void)
{
	for (;;)
		__asm volatile("bkpt 1");
}

#define HANDLER(name) void name(void) __attribute__((weak, alias("unused")))
HANDLER(NMI);
HANDLER(TIMER_IRQ_1);
HANDLER(TIMER_IRQ_2);
HANDLER(TIMER_IRQ_3);
HANDLER(PWM_IRQ_WRAP);
HANDLER(DMA_IRQ_0);
HANDLER(DMA_IRQ_1);
HANDLER(SPI0_IRQ);
HANDLER(SPI1_IRQ);
HANDLER(I2C0_IRQ);
HANDLER(I2C1_IRQ);
HANDLER(RTC_IRQ);
HANDLER(UART0_IRQ);
HANDLER(UART1_IRQ);
HANDLER(ADC_IRQ_FIFO);
HANDLER(SYSTICK);
HANDLER(PENDSV);
HANDLER(SVCALL);

extern const char second_stage;
__attribute__((section(".vectors"), used)) const void *const vectors[16 + 26] = {
	stack_top, start_program_here, NMI, unused, [11] = SVCALL, [14] = PENDSV, [15] = SYSTICK,
	[16] = TIMER_IRQ_0, TIMER_IRQ_1, TIMER_IRQ_2, TIMER_IRQ_3, PWM_IRQ_WRAP, [27] = DMA_IRQ_0, DMA_IRQ_1,
	[29] = IO_IRQ_BANK0, [34] = SPI0_IRQ, SPI1_IRQ, UART0_IRQ, UART1_IRQ, ADC_IRQ_FIFO, I2C0_IRQ, I2C1_IRQ, RTC_IRQ,
};

/* The crystal of 12 MHz, times 125, divided by 6 and 2: 125 MHz (2.15 to 2.18). */
static void set_clocks(void)
{
	REG(0x4002400c) = 47;       /* XOSC STARTUP: a millisecond */
	REG(0x40024000) = 0xfabaa0; /* XOSC CTRL: on */
	while (!(REG(0x40024004) >> 31))
		;
	REG(0x40008030) = 2; /* CLK_REF: the crystal */
	while (REG(0x40008038) != 4)
		;
	REG_CLR(RESETS_RESET) = 1 << 12;
	while (!(RESETS_RESET_DONE & 1 << 12))
		;
	REG(0x40028008) = 125; /* PLL_SYS */
	REG_CLR(REG(0x40028004)) = 0x21;
	while (!(REG(0x40028000) >> 31))
		;
	REG(0x4002800c) = 6 << 16 | 2 << 12;
	REG_CLR(REG(0x40028004)) = 8;
	REG(0x4000803c) = 1; /* CLK_SYS: the PLL */
	while (REG(0x40008044) != 2)
		;
	REG(0x40008048) = 1 << 11;          /* CLK_PERI: the same */
	REG(0x40008064) = 0x100;            /* CLK_ADC: */
	REG(0x40008060) = 1 << 11 | 3 << 5; /* the crystal */
	REG(0x4005802c) = 1 << 9 | 12;      /* WATCHDOG TICK: the timer counts microseconds */
	uint32_t all = 1 << 5 | 1 << 8 | 1 << 21;
	REG_CLR(RESETS_RESET) = all; /* pins, pads, timer */
	while (~RESETS_RESET_DONE & all)
		;
}

__attribute__((used)) void start_program_here(void)
{
	__asm volatile("" :: "r"(&second_stage)); /* keeps it in */
	uint32_t *from = &data_from;
	for (uint32_t *to = &data_start; to < &data_end;)
		*to++ = *from++;
	for (uint32_t *to = &bss_start; to < &bss_end;)
		*to++ = 0;
	set_clocks();
	for (void (*const *c)(void) = constructors_from; c < constructors_to; c++)
		(*c)();
	main();
	while (uart_started && UART0_FR & 1 << 3) /* what is printed gets out */
		;
	for (;;)
		__asm volatile("bkpt 0");
}

/* What newlib asks of a system: memory up to the stack, and UART0 for what is printed. */
void *_sbrk(int more)
{
	static char *top = &end;
	char *was = top;
	if ((uintptr_t)top + more > (uintptr_t)stack_top - 4096) {
		errno = ENOMEM;
		return (void *)-1;
	}
	top += more;
	return was;
}

int _write(int file, const char *text, int n)
{
	(void)file;
	if (!uart_started)
		uart_start(115200);
	for (int i = 0; i < n; i++)
		uart_write((uint8_t)text[i]);
	return n;
}

int _close(int file) { (void)file; return -1; }
int _fstat(int file, struct stat *s) { (void)file; s->st_mode = S_IFCHR; return 0; }
int _isatty(int file) { (void)file; return 1; }
int _lseek(int file, int to, int how) { (void)file; (void)to; (void)how; return 0; }
int _read(int file, char *to, int n) { (void)file; (void)to; (void)n; return 0; }
int _getpid(void) { return 1; }
int _kill(int pid, int how) { (void)pid; (void)how; return -1; }
void _exit(int how) { (void)how; for (;;) __asm volatile("bkpt 0"); }
