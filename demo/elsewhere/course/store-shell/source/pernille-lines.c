#include <avr/io.h>
#include <stdlib.h>
#include <string.h>

#define LOW_STOCK 5

char buffer[24];
uint8_t used;
int stock = 10;

void put(char c)
{
	while (!(UCSR0A & (1 << UDRE0)))
		;
	UDR0 = c;
}

void say(const char *text)
{
	for (; *text; text++)
		put(*text);
}

void lamps(void)
{
	if (stock < LOW_STOCK) {
		PORTB |= 1 << 0;
		PORTB &= ~(1 << 1);
	} else {
		PORTB &= ~(1 << 0);
		PORTB |= 1 << 1;
	}
}

void tell_stock(void)
{
	char number[8];
	itoa(stock, number, 10);
	say("stock ");
	say(number);
	say("\n");
}

void obey(char *line)
{
	int n = atoi(line + 1);

	switch (line[0]) {
	case 'A':
		stock += n;
		tell_stock();
		break;
	case 'T':
		if (n > stock) {
			say("too few\n");
			break;
		}
		stock -= n;
		tell_stock();
		break;
	case 'S':
		tell_stock();
		break;
	default:
		say("what?\n");
	}
	lamps();
}

int main(void)
{
	UBRR0 = 103;
	UCSR0B = (1 << RXEN0) | (1 << TXEN0);
	UCSR0C = (1 << UCSZ01) | (1 << UCSZ00);
	DDRB = 3;
	lamps();
	say("store\n");

	while (1) {
		if (UCSR0A & (1 << RXC0)) {
			char c = UDR0;
			if (c == '\n') {
				buffer[used] = 0;
				obey(buffer);
				used = 0;
			} else if (used < sizeof buffer - 1) {
				buffer[used++] = c;
			}
		}
	}
}
