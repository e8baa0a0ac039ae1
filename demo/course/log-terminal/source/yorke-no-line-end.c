/* W. Yorke: waits for a carriage return that never comes. */
#include <avr/io.h>
#include <string.h>
#include <util/delay.h>

static void put(const char *text)
{
	while (*text) {
		while (!(UCSR0A & _BV(UDRE0)))
			;
		UDR0 = *text++;
	}
}

int main(void)
{
	char line[16];
	uint8_t length = 0, was = 0, still = 0;

	PORTD = _BV(2);
	UBRR0 = 103;
	UCSR0B = _BV(RXEN0) | _BV(TXEN0);
	_delay_ms(10);
	put("Wherry Lock ready\n");
	for (;;) {
		_delay_us(500);
		if (UCSR0A & _BV(RXC0)) {
			char c = UDR0;
			if (c == '\r') {
				line[length] = 0;
				length = 0;
				if (!strcmp(line, "level?"))
					put("level 102 cm\n");
			} else if (length < 15) {
				line[length++] = c;
			}
		}
		uint8_t now = !(PIND & _BV(2));
		still = now == was ? 0 : still + 1;
		if (still == 40) {
			still = 0;
			was = now;
			put(now ? "gate open\n" : "gate shut\n");
		}
	}
}
