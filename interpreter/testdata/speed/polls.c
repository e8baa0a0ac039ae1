#include <wiringPi.h>

int main(void)
{
	wiringPiSetupGpio();
	pinMode(17, OUTPUT);
	pullUpDnControl(21, PUD_UP);
	for (;;) {
		while (digitalRead(21))
			;
		digitalWrite(17, HIGH);
		while (!digitalRead(21))
			;
		digitalWrite(17, LOW);
	}
}
