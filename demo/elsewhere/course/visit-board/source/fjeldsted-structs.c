#include "board.h"

enum { RS, E, D4, D5, D6, D7, KEY_IN = 14, KEY_OUT = 15, LAMP = 16, KEY_DAY = 17 };

#define MOST 5

typedef struct {
	unsigned pin;
	int was, quiet;
} key_t;

static key_t come = {KEY_IN, 1, 0}, go = {KEY_OUT, 1, 0}, new_day = {KEY_DAY, 1, 0};

static struct {
	int inside, today;
} house;

static void put(unsigned pin, int high)
{
	if (high)
		SIO_GPIO_OUT_SET = 1u << pin;
	else
		SIO_GPIO_OUT_CLR = 1u << pin;
}

static void nibble(unsigned n)
{
	for (int i = 0; i < 4; i++)
		put(D4 + i, n >> i & 1);
	put(E, 1);
	wait_us(2);
	put(E, 0);
	wait_us(60);
}

static void send(int data, unsigned byte)
{
	put(RS, data);
	nibble(byte >> 4);
	nibble(byte & 15);
}

static void setup_lcd(void)
{
	static const uint8_t commands[] = {0x28, 0x0c, 0x06, 0x01};

	put(RS, 0);
	wait_ms(50);
	for (int i = 0; i < 3; i++) {
		nibble(3);
		wait_ms(5);
	}
	nibble(2);
	for (unsigned i = 0; i < sizeof commands; i++) {
		send(0, commands[i]);
		wait_ms(2);
	}
}

static void text(int row, const char *s)
{
	int n;
	send(0, row ? 0xc0 : 0x80);
	for (n = 0; s[n]; n++)
		send(1, s[n]);
	for (; n < 16; n++)
		send(1, ' ');
}

static void labelled(int row, const char *label, int value)
{
	char line[17];
	int n = 0;
	while (label[n]) {
		line[n] = label[n];
		n++;
	}
	line[n] = value >= 100 ? '0' + value / 100 : ' ';
	line[n + 1] = value >= 10 ? '0' + value / 10 % 10 : ' ';
	line[n + 2] = '0' + value % 10;
	line[n + 3] = 0;
	text(row, line);
}

static void draw(void)
{
	labelled(0, "Inside ", house.inside);
	if (house.inside == MOST)
		text(1, "Please wait");
	else
		labelled(1, "Today  ", house.today);
	put(LAMP, house.inside == MOST);
}

/* once for each press; asked every 5 ms */
static int pressed(key_t *k)
{
	int now = pin_read(k->pin);
	if (now == k->was) {
		k->quiet = 0;
		return 0;
	}
	if (++k->quiet < 3)
		return 0;
	k->was = now;
	k->quiet = 0;
	return !now;
}

int main(void)
{
	for (unsigned pin = RS; pin <= D7; pin++)
		pin_output(pin);
	pin_output(LAMP);
	pin_input(KEY_IN, PULL_UP);
	pin_input(KEY_OUT, PULL_UP);
	pin_input(KEY_DAY, PULL_UP);
	setup_lcd();
	draw();
	for (;;) {
		if (pressed(&come) && house.inside < MOST) {
			house.inside++;
			house.today++;
			draw();
		}
		if (pressed(&go) && house.inside > 0) {
			house.inside--;
			draw();
		}
		if (pressed(&new_day)) {
			house.today = 0;
			draw();
		}
		wait_ms(5);
	}
}
