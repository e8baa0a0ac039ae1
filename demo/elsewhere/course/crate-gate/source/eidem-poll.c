#define F_CPU 16000000UL
#include <avr/io.h>
#include <util/delay.h>

#define CLOCK PB3
#define RESET PB4

#define CRATE  PD2
#define PALLET PD3
#define ZERO   PD4
#define FULL   PD5

static int crates = 0;
static char held[8];

static int pressed(char pin)
{
	if (PIND & (1 << pin)) {
		held[(int)pin] = 0;
		return 0;
	}
	if (held[(int)pin])
		return 0;
	_delay_ms(20);
	if (PIND & (1 << pin))
		return 0;
	held[(int)pin] = 1;
	return 1;
}

static void count(int n)
{
	while (n--) {
		PORTB |= 1 << CLOCK;
		_delay_us(10);
		PORTB &= ~(1 << CLOCK);
		_delay_us(10);
		crates++;
	}
	if (crates >= 12)
		PORTD |= 1 << FULL;
}

static void reset(void)
{
	PORTB |= 1 << RESET;
	_delay_us(10);
	PORTB &= ~(1 << RESET);
	crates = 0;
	PORTD &= ~(1 << FULL);
}

int main(void)
{
	DDRB = (1 << CLOCK) | (1 << RESET);
	DDRD = 1 << FULL;
	PORTD = (1 << CRATE) | (1 << PALLET) | (1 << ZERO);
	reset();
	for (;;) {
		if (pressed(CRATE))
			count(1);
		if (pressed(PALLET))
			count(5);
		if (pressed(ZERO))
			reset();
		_delay_ms(5);
	}
}
