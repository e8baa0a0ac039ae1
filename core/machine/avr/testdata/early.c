/* An interrupt between two instructions that set flags, where nothing but the interrupt looks at those of the first. */
#include <avr/io.h>
int main(void) {
	asm volatile(
		"ldi r30, 0xc1\n ldi r31, 0\n ldi r18, 0x28\n ldi r19, 7\n clr r21\n sei\n"
		"1: add r16, r19\n add r17, r16\n eor r16, r17\n cp r16, r17\n rjmp 2f\n nop\n"
		"2: st Z, r18\n add r16, r18\n rjmp 1b\n");
}
void __vector_19(void) __attribute__((naked, signal, used));
void __vector_19(void) {
	asm volatile("in r20, 0x3f\n add r21, r20\n sts 0xc1, r1\n out 0x3f, r20\n reti\n");
}
