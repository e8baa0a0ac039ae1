#define F_CPU 16000000UL
#include <avr/io.h>
#include <stdio.h>
#include <util/delay.h>

static int send(char c, FILE *f)
{
	while (!(UCSR0A & (1 << UDRE0)))
		;
	UDR0 = c;
	return 0;
}

static FILE port = FDEV_SETUP_STREAM(send, NULL, _FDEV_SETUP_WRITE);
static const char *const names[4] = {"beans", "kale", "peas", "mint"};
static int plants[4];
static uint8_t row;

static void tell(void)
{
	printf("row %d %s %d\n", row + 1, names[row], plants[row]);
	PORTC = 1 << row;
}

int main(void)
{
	uint8_t nextWas = 0, bedWas = 0;
	stdout = &port;
	UBRR0 = 103;
	UCSR0B = 1 << TXEN0;
	DDRC = 0x0f;
	PORTB = (1 << 4) | (1 << 5);
	tell();
	while (1) {
		uint8_t next = !(PINB & (1 << 4)), bed = !(PINB & (1 << 5));
		if (next && !nextWas) {
			row++;
			if (row > 3)
				row = 0;
			tell();
		}
		if (bed && !bedWas) {
			plants[row]++;
			tell();
		}
		nextWas = next;
		bedWas = bed;
		_delay_ms(10);
	}
}
