#include <avr/io.h>
#include <util/delay.h>

static const uint16_t prices[4] = {250, 85, 1240, 399};

static void put(uint8_t address, uint8_t data)
{
	PORTB &= ~_BV(PB2);
	SPDR = address;
	while (!(SPSR & _BV(SPIF)))
		;
	SPDR = data;
	while (!(SPSR & _BV(SPIF)))
		;
	PORTB |= _BV(PB2);
}

static void show(uint8_t item)
{
	uint16_t p = prices[item];

	put(8, item + 1);
	for (uint8_t i = 5; i < 8; i++)
		put(i, 15);
	put(4, p >= 1000 ? p / 1000 : 15);
	put(3, p / 100 % 10 | 0x80);
	put(2, p / 10 % 10);
	put(1, p % 10);
}

int main(void)
{
	uint8_t item = 0, last = 0;

	DDRB = _BV(PB2) | _BV(PB3) | _BV(PB5);
	PORTD = _BV(PD2) | _BV(PD3);
	SPCR = _BV(SPE) | _BV(MSTR) | _BV(SPR0);
	put(15, 0);
	put(9, 0xff);
	put(11, 7);
	put(10, 8);
	show(item);
	put(12, 1);
	for (;;) {
		uint8_t keys = ~PIND & (_BV(PD2) | _BV(PD3));
		if (keys != last) {
			_delay_ms(10);
			last = keys;
			if (keys & _BV(PD2)) {
				item = (item + 1) % 4;
				show(item);
			} else if (keys & _BV(PD3)) {
				item = (item + 3) % 4;
				show(item);
			}
		}
	}
}
