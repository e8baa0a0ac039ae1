/* H. Usher: leaves the display switched off. */
#include "tm1637.h"

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static void send(uint8_t v)
{
	for (uint8_t i = 0; i < 8; i++) {
		dio(v & 1);
		clk(1);
		clk(0);
		v >>= 1;
	}
	dio(1);
	clk(1);
	clk(0);
}

static uint8_t keys(void)
{
	uint8_t v = 0;

	start();
	send(0x42);
	for (uint8_t i = 0; i < 8; i++) {
		clk(1);
		v >>= 1;
		if (PIND & _BV(3))
			v |= 0x80;
		clk(0);
	}
	clk(1);
	clk(0);
	stop();
	return v;
}

static void show(uint8_t hour, uint8_t minute)
{
	start();
	send(0x40);
	stop();
	start();
	send(0xc0);
	send(hour < 10 ? 0 : font[hour / 10]);
	send(font[hour % 10] | 0x80);
	send(font[minute / 10]);
	send(font[minute % 10]);
	stop();
	start();
	send(0x84);
	stop();
}

int main(void)
{
	uint8_t hour = 11, minute = 58, turns = 0;

	show(hour, minute);
	for (;;) {
		_delay_us(19780);
		if (keys() == 0xf7) {
			hour = 12;
			minute = 0;
			turns = 0;
			show(hour, minute);
		}
		if (++turns < 50)
			continue;
		turns = 0;
		if (++minute == 60) {
			minute = 0;
			hour = hour == 12 ? 1 : hour + 1;
		}
		show(hour, minute);
	}
}
