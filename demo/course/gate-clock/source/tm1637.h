/* The four digits at the gate: CLK at PD2, DIO at PD3. Both lines are let go for high. */
#include <avr/io.h>
#include <util/delay.h>

static void clk(uint8_t high) { if (high) DDRD &= ~_BV(2); else DDRD |= _BV(2); _delay_us(3); }
static void dio(uint8_t high) { if (high) DDRD &= ~_BV(3); else DDRD |= _BV(3); _delay_us(3); }

static void start(void) { dio(1); clk(1); dio(0); clk(0); }
static void stop(void) { clk(0); dio(0); clk(1); dio(1); }
