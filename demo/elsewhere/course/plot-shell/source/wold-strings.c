#include <avr/io.h>
#include <stdlib.h>
#include <string.h>

static void put(char c)
{
	while (!(UCSR0A & (1 << UDRE0)))
		;
	UDR0 = c;
}

static void line(const char *s)
{
	while (*s)
		put(*s++);
	put('\n');
}

static char get(void)
{
	while (!(UCSR0A & (1 << RXC0)))
		;
	return UDR0;
}

static void obey(char *s)
{
	char *space = strchr(s, ' ');
	int n = space ? atoi(space + 1) : 0;

	if (space)
		*space = 0;
	if (strcmp(s, "on") == 0 && n >= 1 && n <= 6) {
		PORTB |= 1 << (n - 1);
	} else if (strcmp(s, "off") == 0 && n >= 1 && n <= 6) {
		PORTB &= ~(1 << (n - 1));
	} else if (strcmp(s, "all") == 0) {
		PORTB |= 0x3f;
	} else if (strcmp(s, "none") == 0) {
		PORTB &= ~0x3f;
	} else {
		line("what?");
		return;
	}
	line("ok");
}

int main(void)
{
	char buffer[16];
	uint8_t n = 0;

	DDRB = 0x3f;
	UBRR0 = 103;
	UCSR0B = (1 << RXEN0) | (1 << TXEN0);
	UCSR0C = (1 << UCSZ01) | (1 << UCSZ00);
	line("plots ready");
	for (;;) {
		char c = get();
		if (c == '\n') {
			buffer[n] = 0;
			n = 0;
			obey(buffer);
		} else if (n < sizeof buffer - 1) {
			buffer[n++] = c;
		}
	}
}
