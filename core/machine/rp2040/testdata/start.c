/* Start-up of the test programs: a second stage that the tests give its checksum, vectors, and memory set up. */
#include <stdint.h>
extern uint32_t data_from, data_start, data_end, bss_start, bss_end, stack_top;
int main(void);
void start(void);
static void idle(void) { for (;;) ; }
#define WEAK __attribute__((weak, alias("idle")))
void systick_isr(void) WEAK;
void timer0_isr(void) WEAK;
void timer3_isr(void) WEAK;
void pins_isr(void) WEAK;
void pwm_isr(void) WEAK;
void uart0_isr(void) WEAK;
void svc_isr(void) WEAK;
void pendsv_isr(void) WEAK;
void nmi_isr(void) WEAK;

__attribute__((section(".second"), used)) static const uint8_t second_stage[256] = {0};
__attribute__((section(".vectors"), used)) static const void *const vectors[48] = {
	&stack_top, start, nmi_isr, idle, 0, 0, 0, 0, 0, 0, 0, svc_isr, 0, 0, pendsv_isr, systick_isr,
	[16] = timer0_isr, [19] = timer3_isr, [20] = pwm_isr, [29] = pins_isr, [36] = uart0_isr,
};

void start(void)
{
	uint32_t *from = &data_from;
	for (uint32_t *to = &data_start; to < &data_end;)
		*to++ = *from++;
	for (uint32_t *to = &bss_start; to < &bss_end;)
		*to++ = 0;
	main();
	__asm volatile("bkpt 0");
}
