#include <avr/io.h>
#include <stdbool.h>
#include <util/delay.h>

#define CLK PD4
#define DIO PD5

static const uint8_t glyphs[] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

struct key {
	uint8_t pin;
	bool down;
	uint16_t since; /* passes of the loop */
};

static struct key up = {PB0, false, 0};
static struct key down = {PB1, false, 0};
static int8_t warmth = 21;

static void clk(bool high)
{
	if (high)
		PORTD |= _BV(CLK);
	else
		PORTD &= ~_BV(CLK);
	_delay_us(3);
}

static void dio(bool high)
{
	if (high)
		DDRD &= ~_BV(DIO);
	else
		DDRD |= _BV(DIO);
	_delay_us(3);
}

static void start(void)
{
	dio(false);
	clk(false);
}

static void stop(void)
{
	dio(false);
	clk(true);
	dio(true);
}

static void send(uint8_t b)
{
	for (uint8_t i = 0; i < 8; i++) {
		dio(b & 1);
		clk(true);
		clk(false);
		b >>= 1;
	}
	dio(true);
	clk(true);
	clk(false);
}

static void show(void)
{
	start();
	send(0x40);
	stop();
	start();
	send(0xc0);
	send(0);
	send(0);
	send(glyphs[warmth / 10]);
	send(glyphs[warmth % 10]);
	stop();
	start();
	send(0x8c);
	stop();
	if (warmth >= 23)
		PORTB |= _BV(PB3);
	else
		PORTB &= ~_BV(PB3);
}

/* Once per pass, every 10 ms: true in the pass in which it goes down. */
static bool poll(struct key *k)
{
	bool now = !(PINB & _BV(k->pin));
	if (now == k->down) {
		k->since++;
		return false;
	}
	k->down = now;
	k->since = 0;
	return now;
}

int main(void)
{
	DDRD |= _BV(CLK);
	PORTD |= _BV(CLK);
	DDRB |= _BV(PB3);
	PORTB |= _BV(PB0) | _BV(PB1);
	show();
	for (;;) {
		if (poll(&up) && warmth < 25) {
			warmth++;
			show();
		}
		if (poll(&down) && warmth > 16) {
			warmth--;
			show();
		}
		if (down.down && down.since == 100) {
			warmth = 18;
			show();
		}
		_delay_ms(10);
	}
}
