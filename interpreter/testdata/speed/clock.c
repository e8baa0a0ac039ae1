#include <wiringPi.h>

int main(void)
{
	unsigned int since = 0, lit = 0;
	wiringPiSetupGpio();
	pinMode(17, OUTPUT);
	pullUpDnControl(21, PUD_UP);
	for (;;) {
		unsigned int now = millis();
		if (now - since >= 20) {
			since = now;
			if (lit == (unsigned int)digitalRead(21)) {
				lit = !lit;
				digitalWrite(17, lit);
			}
		}
	}
}
