/* C. Verney: forgets the double speed, and sends at 4800 baud. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdio.h>
#include <string.h>
#include <util/delay.h>

static char out[64];
static volatile uint8_t head, tail;
static char line[16];
static volatile uint8_t whole;

ISR(USART_UDRE_vect)
{
	UDR0 = out[tail];
	tail = (tail + 1) & 63;
	if (tail == head)
		UCSR0B &= ~_BV(UDRIE0);
}

ISR(USART_RX_vect)
{
	static uint8_t length;
	char c = UDR0;

	if (c == '\n') {
		line[length] = 0;
		length = 0;
		whole = 1;
	} else if (length < 15) {
		line[length++] = c;
	}
}

static int put(char c, FILE *unused)
{
	while (((head + 1) & 63) == tail)
		;
	out[head] = c;
	head = (head + 1) & 63;
	UCSR0B |= _BV(UDRIE0);
	return 0;
}

static FILE terminal = FDEV_SETUP_STREAM(put, NULL, _FDEV_SETUP_WRITE);

int main(void)
{
	uint8_t was = 0;

	stdout = &terminal;
	PORTD = _BV(2);
	UBRR0 = 207;
	UCSR0A = 0;
	UCSR0B = _BV(RXEN0) | _BV(TXEN0) | _BV(RXCIE0);
	sei();
	_delay_ms(10);
	printf("Wherry Lock ready\n");
	for (;;) {
		if (whole) {
			whole = 0;
			if (!strcmp(line, "level?"))
				printf("level %d cm\n", 102);
		}
		uint8_t now = !(PIND & _BV(2));
		if (now != was) {
			_delay_ms(15);
			now = !(PIND & _BV(2));
			if (now != was)
				printf("gate %s\n", now ? "open" : "shut");
			was = now;
		}
	}
}
