#include <avr/io.h>
#include <util/delay.h>

struct picker {
	uint16_t baskets;
	uint8_t right; /* the digit register of its last figure */
};

struct key {
	uint8_t pin;
	uint8_t down;
};

static struct picker pickers[2] = { { 0, 5 }, { 0, 1 } };
static struct key keys[3] = { { PD2, 0 }, { PD3, 0 }, { PD4, 0 } };
static struct picker *last;

static void send(uint8_t reg, uint8_t value)
{
	PORTB &= ~_BV(PB2);
	SPDR = reg;
	while (!(SPSR & _BV(SPIF)))
		;
	SPDR = value;
	while (!(SPSR & _BV(SPIF)))
		;
	PORTB |= _BV(PB2);
}

static void show(const struct picker *p)
{
	uint16_t n = p->baskets;
	for (uint8_t i = 0; i < 4; i++) {
		send(p->right + i, n || i == 0 ? n % 10 : 0x0f);
		n /= 10;
	}
}

static void refresh(void)
{
	show(&pickers[0]);
	show(&pickers[1]);
	PORTD &= ~(_BV(PD5) | _BV(PD6));
	if (pickers[0].baskets > pickers[1].baskets)
		PORTD |= _BV(PD5);
	if (pickers[1].baskets > pickers[0].baskets)
		PORTD |= _BV(PD6);
}

static uint8_t hit(struct key *k)
{
	uint8_t down = !(PIND & _BV(k->pin));
	uint8_t is = down && !k->down;
	k->down = down;
	return is;
}

int main(void)
{
	DDRB = _BV(PB2) | _BV(PB3) | _BV(PB5);
	DDRD = _BV(PD5) | _BV(PD6);
	PORTD = _BV(PD2) | _BV(PD3) | _BV(PD4);
	SPCR = _BV(SPE) | _BV(MSTR) | _BV(SPR0);
	send(0x0f, 0);
	send(0x09, 0xff);
	send(0x0a, 0x08);
	send(0x0b, 7);
	send(0x0c, 1);
	refresh();

	while (1) {
		for (uint8_t i = 0; i < 2; i++) {
			if (hit(&keys[i])) {
				last = &pickers[i];
				last->baskets++;
				refresh();
			}
		}
		if (hit(&keys[2]) && last) {
			last->baskets--;
			last = 0;
			refresh();
		}
		_delay_ms(10);
	}
}
