#include "board.h"

#define TENS 10
#define ONES 11
#define EVEN 16
#define BACK 17
#define A 20
#define B 21
#define PUSH 22

static const uint8_t shape[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static int turns;
static int lit_for;

static void digit(int select, int value)
{
	SIO_GPIO_OUT_CLR = 1 << TENS | 1 << ONES;
	SIO_GPIO_OUT_CLR = 0x7f << 2;
	SIO_GPIO_OUT_SET = shape[value] << 2;
	SIO_GPIO_OUT_SET = 1 << select;
}

static void look(void)
{
	static int a_old = 1, push_old = 1, wait;
	int a = pin_read(A);
	if (wait > 0) {
		wait--;
	} else if (a != a_old) {
		a_old = a;
		wait = 2;
		if (!a) {
			if (pin_read(B)) {
				if (turns < 99)
					turns++;
			} else if (turns > 0) {
				turns--;
			}
		}
	}
	int push = pin_read(PUSH);
	if (!push && push_old) {
		turns = 0;
		lit_for = 1000;
	}
	push_old = push;
}

int main(void)
{
	for (int pin = 2; pin <= 8; pin++)
		pin_output(pin);
	pin_output(TENS);
	pin_output(ONES);
	pin_output(EVEN);
	pin_output(BACK);
	pin_input(A, PULL_UP);
	pin_input(B, PULL_UP);
	pin_input(PUSH, PULL_UP);
	for (int ms = 0;; ms++) {
		if (ms % 4 == 0)
			digit(TENS, turns / 10);
		else if (ms % 4 == 2)
			digit(ONES, turns % 10);
		look();
		if (turns % 2 == 0 && turns != 0)
			SIO_GPIO_OUT_SET = 1 << EVEN;
		else
			SIO_GPIO_OUT_CLR = 1 << EVEN;
		if (lit_for > 0) {
			lit_for--;
			SIO_GPIO_OUT_SET = 1 << BACK;
		} else {
			SIO_GPIO_OUT_CLR = 1 << BACK;
		}
		wait_us(1000);
	}
}
