/* Speed: pins toggled as fast as the core can. */
#include <avr/io.h>
int main(void) { DDRB = 0xff; for (;;) { PORTB = 0x55; PORTB = 0xaa; } }
