/* The calls of board.h. */
#include "board.h"

#define SYSTEM 125000000u
#define RESET_ADC (1u << 0)
#define RESET_PWM (1u << 14)
#define RESET_UART0 (1u << 22)
#define PAD_INPUT 0x40
#define PAD_STRENGTH 0x10
#define PAD_SCHMITT 0x02

static void release(uint32_t peripherals)
{
	REG_CLR(RESETS_RESET) = peripherals;
	while (~RESETS_RESET_DONE & peripherals)
		;
}

void pin_output(unsigned pin)
{
	PADS_GPIO(pin) = PAD_INPUT | PAD_STRENGTH | PAD_SCHMITT;
	SIO_GPIO_OE_SET = 1u << pin;
	GPIO_CTRL(pin) = 5;
}

void pin_input(unsigned pin, enum pull pull)
{
	PADS_GPIO(pin) = PAD_INPUT | PAD_STRENGTH | PAD_SCHMITT | (uint32_t)pull << 2;
	SIO_GPIO_OE_CLR = 1u << pin;
	GPIO_CTRL(pin) = 5;
}

static void (*pin_calls[30])(void);

__attribute__((weak)) void IO_IRQ_BANK0(void)
{
	for (unsigned pin = 0; pin < 30; pin++) {
		uint32_t edges = INTR(pin / 8) >> 4 * (pin % 8) & PROC0_INTE(pin / 8) >> 4 * (pin % 8) & 12;
		if (edges) {
			INTR(pin / 8) = edges << 4 * (pin % 8);
			if (pin_calls[pin])
				pin_calls[pin]();
		}
	}
}

void pin_interrupt(unsigned pin, unsigned edges, void (*call)(void))
{
	pin_calls[pin] = call;
	INTR(pin / 8) = 12u << 4 * (pin % 8);
	REG_SET(PROC0_INTE(pin / 8)) = (edges & 12u) << 4 * (pin % 8);
	NVIC_ISER = 1 << 13;
}

uint64_t time_us(void)
{
	uint32_t high = TIMER_TIMERAWH, low, again;
	do {
		again = high;
		low = TIMER_TIMERAWL;
		high = TIMER_TIMERAWH;
	} while (high != again);
	return (uint64_t)high << 32 | low;
}

void wait_us(uint64_t us)
{
	uint64_t until = time_us() + us;
	while (time_us() < until)
		;
}

static uint32_t period;
static void (*period_call)(void);

__attribute__((weak)) void TIMER_IRQ_0(void)
{
	TIMER_INTR = 1;
	TIMER_ALARM(0) = TIMER_ALARM(0) + period;
	if (period_call)
		period_call();
}

void every_us(uint32_t us, void (*call)(void))
{
	period = us;
	period_call = call;
	NVIC_ICER = 1;
	if (us == 0)
		return;
	TIMER_INTR = 1;
	REG_SET(TIMER_INTE) = 1;
	TIMER_ALARM(0) = TIMER_TIMERAWL + us;
	NVIC_ISER = 1;
}

void pwm_start(unsigned pin, uint32_t hz, uint32_t duty)
{
	unsigned slice = pin / 2 % 8;
	release(RESET_PWM);
	uint32_t divider = SYSTEM / hz / 65536 + 1;
	if (divider > 255)
		divider = 255;
	PWM_DIV(slice) = divider << 4;
	PWM_TOP(slice) = SYSTEM / divider / hz - 1;
	pwm_duty(pin, duty);
	PWM_CSR(slice) = 1;
	PADS_GPIO(pin) = PAD_INPUT | PAD_STRENGTH | PAD_SCHMITT;
	GPIO_CTRL(pin) = 4;
}

void pwm_duty(unsigned pin, uint32_t duty)
{
	unsigned slice = pin / 2 % 8, shift = pin % 2 * 16;
	uint32_t level = (uint64_t)(PWM_TOP(slice) + 1) * duty >> 16;
	PWM_CC(slice) = (PWM_CC(slice) & ~(0xffffu << shift)) | level << shift;
}

unsigned adc_read(unsigned pin)
{
	static bool begun;
	if (!begun) {
		begun = true;
		release(RESET_ADC);
		ADC_CS = 1;
		while (!(ADC_CS & 1 << 8))
			;
	}
	PADS_GPIO(pin) = 0x80; /* no output, no input, no pulls */
	ADC_CS = (pin - 26) << 12 | 1 << 2 | 1;
	while (!(ADC_CS & 1 << 8))
		;
	return ADC_RESULT;
}

static uintptr_t bus; /* I2C0 or I2C1 */

#define IC(offset) REG(bus + (offset))

void i2c_start(unsigned sda, uint32_t hz)
{
	bus = sda / 2 % 2 ? 0x40048000 : 0x40044000;
	release(sda / 2 % 2 ? 1 << 4 : 1 << 3);
	uint32_t period = SYSTEM / hz;
	IC(0x6c) = 0;
	IC(0x00) = 1 << 8 | 1 << 6 | 1 << 5 | 2 << 1 | 1; /* a master, in fast mode, with repeated starts */
	IC(0x1c) = period * 2 / 5;
	IC(0x20) = period * 3 / 5;
	for (unsigned pin = sda; pin < sda + 2; pin++) {
		PADS_GPIO(pin) = PAD_INPUT | PAD_STRENGTH | PAD_SCHMITT | PULL_UP << 2;
		GPIO_CTRL(pin) = 3;
	}
	IC(0x6c) = 1;
}

/* Waits until all is sent, and tells whether it was acknowledged. */
static bool i2c_sent(void)
{
	while (!(IC(0x34) & 1 << 9)) /* a stop */
		;
	(void)IC(0x60);
	bool refused = IC(0x80) != 0;
	(void)IC(0x54);
	return !refused;
}

static void i2c_target(unsigned address)
{
	IC(0x6c) = 0;
	IC(0x04) = address;
	IC(0x6c) = 1;
}

bool i2c_write(unsigned address, const uint8_t *bytes, unsigned n)
{
	i2c_target(address);
	for (unsigned i = 0; i < n && IC(0x80) == 0; i++) {
		while (!(IC(0x70) & 1 << 1)) /* room */
			;
		IC(0x10) = bytes[i] | (i + 1 == n) << 9;
	}
	return i2c_sent();
}

bool i2c_read(unsigned address, uint8_t *bytes, unsigned n)
{
	i2c_target(address);
	for (unsigned i = 0; i < n; i++) {
		IC(0x10) = 1 << 8 | (i + 1 == n) << 9;
		while (!IC(0x78) && IC(0x80) == 0)
			;
		if (IC(0x80))
			break;
		bytes[i] = IC(0x10);
	}
	return i2c_sent();
}

bool uart_started;

void uart_start(uint32_t baud)
{
	uart_started = true;
	uint32_t rate = 4 * SYSTEM / baud; /* in 64ths of a sixteenth of a bit */
	release(RESET_UART0);
	UART0_IBRD = rate >> 6;
	UART0_FBRD = rate & 63;
	UART0_LCR_H = 0x70;
	UART0_CR = 0x301;
	GPIO_CTRL(0) = GPIO_CTRL(1) = 2;
	PADS_GPIO(1) = PAD_INPUT | PAD_SCHMITT | PULL_UP << 2;
}

void uart_write(uint8_t byte)
{
	while (UART0_FR & 1 << 5)
		;
	UART0_DR = byte;
}

int uart_read(void)
{
	return UART0_FR & 1 << 4 ? -1 : (int)(UART0_DR & 0xff);
}
