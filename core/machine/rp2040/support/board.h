/* Registers of the RP2040 by their names in its datasheet, and a thin set of calls for lessons. Before main() the system
   clock is 125 MHz, the timer counts microseconds, and the pins can be used. */
#ifndef BOARD_H
#define BOARD_H
#include <stdbool.h>
#include <stdint.h>
#ifdef __cplusplus
extern "C" {
#endif

#define REG(address) (*(volatile uint32_t *)(address))
/* The same register, with single bits turned, set or cleared by a write (2.1.2). */
#define REG_XOR(r) (*(volatile uint32_t *)((uintptr_t)&(r) + 0x1000))
#define REG_SET(r) (*(volatile uint32_t *)((uintptr_t)&(r) + 0x2000))
#define REG_CLR(r) (*(volatile uint32_t *)((uintptr_t)&(r) + 0x3000))

#define RESETS_RESET REG(0x4000c000)
#define RESETS_RESET_DONE REG(0x4000c008)
#define GPIO_STATUS(n) REG(0x40014000 + 8 * (n))
#define GPIO_CTRL(n) REG(0x40014004 + 8 * (n))
#define INTR(n) REG(0x400140f0 + 4 * (n))
#define PROC0_INTE(n) REG(0x40014100 + 4 * (n))
#define PADS_GPIO(n) REG(0x4001c004 + 4 * (n))
#define UART0_DR REG(0x40034000)
#define UART0_FR REG(0x40034018)
#define UART0_IBRD REG(0x40034024)
#define UART0_FBRD REG(0x40034028)
#define UART0_LCR_H REG(0x4003402c)
#define UART0_CR REG(0x40034030)
#define UART0_IMSC REG(0x40034038)
#define ADC_CS REG(0x4004c000)
#define ADC_RESULT REG(0x4004c004)
#define PWM_CSR(n) REG(0x40050000 + 20 * (n))
#define PWM_DIV(n) REG(0x40050004 + 20 * (n))
#define PWM_CTR(n) REG(0x40050008 + 20 * (n))
#define PWM_CC(n) REG(0x4005000c + 20 * (n))
#define PWM_TOP(n) REG(0x40050010 + 20 * (n))
#define TIMER_TIMEHR REG(0x40054008)
#define TIMER_TIMELR REG(0x4005400c)
#define TIMER_ALARM(n) REG(0x40054010 + 4 * (n))
#define TIMER_TIMERAWH REG(0x40054024)
#define TIMER_TIMERAWL REG(0x40054028)
#define TIMER_INTR REG(0x40054034)
#define TIMER_INTE REG(0x40054038)
#define SIO_GPIO_IN REG(0xd0000004)
#define SIO_GPIO_OUT REG(0xd0000010)
#define SIO_GPIO_OUT_SET REG(0xd0000014)
#define SIO_GPIO_OUT_CLR REG(0xd0000018)
#define SIO_GPIO_OUT_XOR REG(0xd000001c)
#define SIO_GPIO_OE REG(0xd0000020)
#define SIO_GPIO_OE_SET REG(0xd0000024)
#define SIO_GPIO_OE_CLR REG(0xd0000028)
#define SYST_CSR REG(0xe000e010)
#define SYST_RVR REG(0xe000e014)
#define SYST_CVR REG(0xe000e018)
#define NVIC_ISER REG(0xe000e100)
#define NVIC_ICER REG(0xe000e180)
#define NVIC_ICPR REG(0xe000e280)

/* Handlers that a program may have, by the names of the vectors (2.3.2). With one of its own for TIMER_IRQ_0 or
   IO_IRQ_BANK0, every_us() or pin_interrupt() does nothing. */
void TIMER_IRQ_0(void);
void TIMER_IRQ_1(void);
void TIMER_IRQ_2(void);
void TIMER_IRQ_3(void);
void PWM_IRQ_WRAP(void);
void IO_IRQ_BANK0(void);
void DMA_IRQ_0(void);
void DMA_IRQ_1(void);
void SPI0_IRQ(void);
void SPI1_IRQ(void);
void I2C0_IRQ(void);
void I2C1_IRQ(void);
void RTC_IRQ(void);
void UART0_IRQ(void);
void UART1_IRQ(void);
void ADC_IRQ_FIFO(void);
void SYSTICK(void);
void PENDSV(void);
void SVCALL(void);

/* Pins. */
enum pull { PULL_NONE, PULL_DOWN, PULL_UP };
void pin_output(unsigned pin);
void pin_input(unsigned pin, enum pull pull);
static inline void pin_write(unsigned pin, bool high)
{
	if (high)
		SIO_GPIO_OUT_SET = 1u << pin;
	else
		SIO_GPIO_OUT_CLR = 1u << pin;
}
static inline void pin_toggle(unsigned pin) { SIO_GPIO_OUT_XOR = 1u << pin; }
static inline bool pin_read(unsigned pin) { return SIO_GPIO_IN >> pin & 1; }
/* All pins of a mask at once. */
static inline void pins_write(uint32_t mask, uint32_t levels) { SIO_GPIO_OUT_XOR = (SIO_GPIO_OUT ^ levels) & mask; }

/* Calls back at edges of a pin. */
enum edge { FALLING = 4, RISING = 8 };
void pin_interrupt(unsigned pin, unsigned edges, void (*call)(void));

/* Time since start. */
uint64_t time_us(void);
static inline uint32_t time_ms(void) { return (uint32_t)(time_us() / 1000); }
void wait_us(uint64_t us);
static inline void wait_ms(uint32_t ms) { wait_us((uint64_t)ms * 1000); }

/* Calls back every so many microseconds, by alarm 0; 0 ends that. */
void every_us(uint32_t us, void (*call)(void));
static inline void wait_for_event(void) { __asm volatile("wfe"); }
static inline void wait_for_interrupt(void) { __asm volatile("wfi"); }
static inline void interrupts_off(void) { __asm volatile("cpsid i" ::: "memory"); }
static inline void interrupts_on(void) { __asm volatile("cpsie i" ::: "memory"); }

/* A square wave at a pin, high for duty of 65536 parts. */
void pwm_start(unsigned pin, uint32_t hz, uint32_t duty);
void pwm_duty(unsigned pin, uint32_t duty);

/* What a pin from 26 to 29 is at: 0 to 4095 for 0 V to the supply. */
unsigned adc_read(unsigned pin);

/* I2C as a master: SDA at an even pin, SCL at the one behind it. Both give false where nothing acknowledges. */
void i2c_start(unsigned sda, uint32_t hz);
bool i2c_write(unsigned address, const uint8_t *bytes, unsigned n);
bool i2c_read(unsigned address, uint8_t *bytes, unsigned n);

/* UART0 at GP0 and GP1; printf() prints to it. uart_read() gives -1 where nothing has come. */
extern bool uart_started;
void uart_start(uint32_t baud);
void uart_write(uint8_t byte);
int uart_read(void);

#ifdef __cplusplus
}
#endif
#endif
