#define F_CPU 16000000UL
#include <avr/io.h>
#include <util/delay.h>
#include <stdio.h>
#include <stdint.h>

static const char keys[4][4] = {
	"123A", "456B", "789C", "*0#D",
};

static uint8_t table, orders;

static void put(char c)
{
	while (!(UCSR0A & _BV(UDRE0)))
		;
	UDR0 = c;
}

static void print(const char *s)
{
	while (*s)
		put(*s++);
}

static void go(uint8_t place)
{
	put(0x1B);
	put('P');
	put(place);
}

static void show(void)
{
	char line[17];

	put(0x1B);
	put('C');
	if (table) {
		sprintf(line, "TABLE %u", table);
		print(line);
	} else {
		print("TABLE");
	}
	go(16);
	sprintf(line, orders == 1 ? "%u ORDER" : "%u ORDERS", orders);
	print(line);
}

/* the key that is down, or 0 */
static char scan(void)
{
	for (uint8_t row = 0; row < 4; row++) {
		DDRB = _BV(row);
		PORTB = 0;
		_delay_us(20);
		for (uint8_t column = 0; column < 4; column++)
			if (!(PINC & _BV(column)))
				return keys[row][column];
	}
	return 0;
}

static void take(char key)
{
	if (key >= '0' && key <= '9') {
		if (table < 10)
			table = table * 10 + (key - '0');
	} else if (key == '*') {
		table = 0;
	} else if (key == '#') {
		if (!table)
			return;
		orders++;
		table = 0;
	} else {
		return;
	}
	show();
}

int main(void)
{
	char last = 0;

	PORTC = 0x0F;
	UBRR0 = 103;
	UCSR0B = _BV(TXEN0);
	_delay_ms(700);
	show();
	for (;;) {
		char key = scan();
		if (key != last) {
			_delay_ms(15);
			if (scan() == key) {
				last = key;
				if (key)
					take(key);
			}
		}
	}
}
