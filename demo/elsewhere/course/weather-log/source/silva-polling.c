#include <avr/io.h>
#include <string.h>

static void send(char c)
{
	while (!(UCSR0A & _BV(UDRE0)))
		;
	UDR0 = c;
}

static void say(const char *s)
{
	while (*s)
		send(*s++);
	send('\n');
}

static char receive(void)
{
	while (!(UCSR0A & _BV(RXC0)))
		;
	return UDR0;
}

int main(void)
{
	char line[20];
	unsigned char n = 0;

	DDRD |= _BV(5);
	UBRR0 = 51;
	UCSR0B = _BV(RXEN0) | _BV(TXEN0);
	UCSR0C = _BV(UCSZ01) | _BV(UCSZ00);
	say("Farrow Hill mast");
	for (;;) {
		char c = receive();
		if (c != '\n') {
			if (n < sizeof line - 1)
				line[n++] = c;
			continue;
		}
		line[n] = 0;
		n = 0;
		if (!strcmp(line, "rain on")) {
			PORTD |= _BV(5);
			say("cover closed");
		} else if (!strcmp(line, "rain off")) {
			PORTD &= ~_BV(5);
			say("cover open");
		} else {
			say("what?");
		}
	}
}
