/* Lets one program run on the chip, printing to a USART, and on the host, printing to stdout. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <setjmp.h>
#ifdef __AVR__
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <avr/sleep.h>
#include <avr/interrupt.h>
#if defined(UCSR1A) && !defined(UCSR0A)
#define UCSR0A UCSR1A
#define UCSR0B UCSR1B
#define UDR0 UDR1
#define UDRE0 UDRE1
#define U2X0 U2X1
#define TXEN0 TXEN1
#define UBRR0 UBRR1
#elif defined(UCSRA)
#define UCSR0A UCSRA
#define UCSR0B UCSRB
#define UDR0 UDR
#define UDRE0 UDRE
#define U2X0 U2X
#define TXEN0 TXEN
#define UBRR0 UBRRL
#endif
static int put(char c, FILE *f) { (void)f; while (!(UCSR0A & _BV(UDRE0))) ; UDR0 = c; return 0; }
static FILE line = FDEV_SETUP_STREAM(put, NULL, _FDEV_SETUP_WRITE);
static void begin(void) { UBRR0 = 0; UCSR0A = _BV(U2X0); UCSR0B = _BV(TXEN0); stdout = &line; }
static void finish(void) {
	for (volatile uint16_t i = 0; i < 1000; i++) ; /* the last byte leaves */
	cli(); sleep_enable(); for (;;) sleep_cpu();
}
#else
#define PROGMEM
#define pgm_read_byte(p) (*(const uint8_t *)(p))
#define pgm_read_word(p) (*(const uint16_t *)(p))
static void begin(void) {}
static void finish(void) {}
#endif
