/* By the clock, with the library's own numbers and an interrupt for the key. */
#include <stdio.h>
#include <unistd.h>
#include <wiringPi.h>

enum { FIRST = 21, LAST = 25, STOP = 29 }; /* GPIO5, 6, 13, 19, 26 and 21 */

static volatile int held;

static void changed(void)
{
	held = !digitalRead(STOP);
}

static void light(int lamp)
{
	for (int pin = FIRST; pin <= LAST; pin++)
		digitalWrite(pin, pin == lamp ? HIGH : LOW);
}

int main(void)
{
	if (wiringPiSetup() < 0)
		return 1;
	for (int pin = FIRST; pin <= LAST; pin++)
		pinMode(pin, OUTPUT);
	pinMode(STOP, INPUT);
	pullUpDnControl(STOP, PUD_UP);
	wiringPiISR(STOP, INT_EDGE_BOTH, changed);

	int lamp = FIRST, step = 1;
	unsigned int since = millis();
	printf("jib lamps\n");
	light(lamp);
	while (1) {
		unsigned int now = millis();
		if (held) {
			usleep(1000);
			since += millis() - now;
			continue;
		}
		if (now - since >= 250) {
			since += 250;
			if (lamp + step < FIRST || lamp + step > LAST)
				step = -step;
			lamp += step;
			light(lamp);
		}
		usleep(1000);
	}
}
