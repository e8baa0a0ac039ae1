// The places in a table, 10 ms at a time.
#include <wiringPi.h>

static const int lamps[] = {5, 6, 13, 19, 26};
static const int path[] = {0, 1, 2, 3, 4, 3, 2, 1};
#define KEY 21

int main(void)
{
	wiringPiSetupGpio();
	for (int i = 0; i < 5; i++)
		pinMode(lamps[i], OUTPUT);
	pinMode(KEY, INPUT);
	pullUpDnControl(KEY, PUD_UP);
	for (int at = 0;; at = (at + 1) % 8) {
		for (int i = 0; i < 5; i++)
			digitalWrite(lamps[i], i == path[at]);
		for (int passed = 0; passed < 250;) {
			delay(10);
			if (digitalRead(KEY))
				passed += 10;
		}
	}
}
