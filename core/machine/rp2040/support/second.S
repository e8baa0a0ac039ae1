/* The second boot stage (RP2040 Datasheet 2.8.1.3.1): the boot ROM copies these 256 bytes into RAM, checks their
   checksum and calls them. They have the flash read as memory, by its slow command 03h, which every flash chip knows,
   and go on at the vectors behind. */
	.syntax unified
	.cpu cortex-m0plus
	.thumb
	.section .second, "ax"
	.global second_stage
second_stage:
	push {lr}
	ldr r3, ssi
	movs r1, #0
	str r1, [r3, #8]        /* SSIENR: off while it is set up */
	movs r1, #4
	str r1, [r3, #0x14]     /* BAUDR: a quarter of the system clock */
	ldr r1, control
	str r1, [r3, #0]        /* CTRLR0: words of 32 bits, read after a command */
	movs r1, #0
	str r1, [r3, #4]        /* CTRLR1: one word at a time */
	ldr r0, format
	ldr r1, command
	str r1, [r0, #0]        /* SPI_CTRLR0: 8 bits of command, 24 of address */
	movs r1, #1
	str r1, [r3, #8]
	pop {r0}
	cmp r0, #0              /* called again by a program that wrote flash: back to it */
	beq start_program
	bx r0
start_program:
	ldr r0, vectors_at
	ldr r1, vtor
	str r0, [r1]
	ldmia r0!, {r1, r2}
	msr msp, r1
	bx r2
	.align 2
ssi:        .word 0x18000000
control:    .word 31 << 16 | 3 << 8
format:     .word 0x180000f4
command:    .word 0x03 << 24 | 2 << 8 | 6 << 2
vectors_at: .word 0x10000100
vtor:       .word 0xe000ed08
	.org second_stage + 252
	.word 0x9e34b299        /* the checksum */
