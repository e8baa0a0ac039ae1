#include "board.h"

#define MORE 14
#define LESS 15
#define FULL 16
#define EMPTY 17

const unsigned char shapes[] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

int step = 3;

void show(void)
{
	for (int i = 0; i < 7; i++)
		if (shapes[step] & (1 << i))
			SIO_GPIO_OUT_SET = 1 << (2 + i);
		else
			SIO_GPIO_OUT_CLR = 1 << (2 + i);
	if (step == 9)
		SIO_GPIO_OUT_SET = 1 << FULL;
	else
		SIO_GPIO_OUT_CLR = 1 << FULL;
}

int main(void)
{
	int more_before = 1, less_before = 1, blink = 0;

	for (int pin = 2; pin <= 8; pin++)
		pin_output(pin);
	pin_output(FULL);
	pin_output(EMPTY);
	pin_input(MORE, PULL_UP);
	pin_input(LESS, PULL_UP);
	show();
	while (1) {
		int more = pin_read(MORE);
		int less = pin_read(LESS);
		if (!more && more_before && step < 9) {
			step++;
			show();
		}
		if (!less && less_before && step > 0) {
			step--;
			blink = 0;
			show();
		}
		more_before = more;
		less_before = less;
		if (step == 0) {
			if (blink < 50)
				SIO_GPIO_OUT_SET = 1 << EMPTY;
			else
				SIO_GPIO_OUT_CLR = 1 << EMPTY;
			blink++;
			if (blink == 100)
				blink = 0;
		} else {
			SIO_GPIO_OUT_CLR = 1 << EMPTY;
		}
		wait_us(10000);
	}
}
