#include <avr/io.h>
#include <stdint.h>

static const uint8_t figure[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static void say(const char *text)
{
	while (*text) {
		loop_until_bit_is_set(UCSR0A, UDRE0);
		UDR0 = *text++;
	}
}

static char heard(void)
{
	loop_until_bit_is_set(UCSR0A, RXC0);
	return UDR0;
}

static void show(uint8_t pattern)
{
	PORTB = pattern & 0x3f;
	if (pattern & 0x40)
		PORTC |= _BV(PC0);
	else
		PORTC &= ~_BV(PC0);
}

int main(void)
{
	DDRB = 0x3f;
	DDRC = _BV(PC0);
	UBRR0 = 103;
	UCSR0B = _BV(RXEN0) | _BV(TXEN0);
	say("Height?\n");
	for (;;) {
		char first = heard();
		uint8_t length = 0;
		for (char c = first; c != '\n'; c = heard())
			length++;
		if (length == 1 && first >= '0' && first <= '9') {
			show(figure[first - '0']);
			say("set\n");
		} else {
			say("what?\n");
		}
	}
}
