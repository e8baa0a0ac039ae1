#include <avr/io.h>
#include <ctype.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static void put(char c)
{
	while (!(UCSR0A & _BV(UDRE0)))
		;
	UDR0 = c;
}

static void say(const char *s)
{
	while (*s)
		put(*s++);
	put('\n');
}

int main(void)
{
	char line[20], answer[20];
	uint8_t n = 0;
	unsigned sum = 0;

	DDRB = _BV(PB5);
	UBRR0 = 25;
	UCSR0B = _BV(RXEN0) | _BV(TXEN0);
	say("till");
	for (;;) {
		while (!(UCSR0A & _BV(RXC0)))
			;
		char c = UDR0;
		if (c != '\n') {
			if (n < 19)
				line[n++] = c;
			continue;
		}
		line[n] = 0;
		n = 0;
		if (isdigit(line[0])) {
			sum += atoi(line);
		} else if (strcmp(line, "clear") == 0) {
			sum = 0;
		} else {
			say("?");
			continue;
		}
		sprintf(answer, "sum %u", sum);
		say(answer);
		if (sum >= 100)
			PORTB |= _BV(PB5);
		else
			PORTB &= ~_BV(PB5);
	}
}
