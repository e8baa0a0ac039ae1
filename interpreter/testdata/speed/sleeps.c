#include <wiringPi.h>

int main(void)
{
	wiringPiSetupGpio();
	pinMode(17, OUTPUT);
	pullUpDnControl(21, PUD_UP);
	for (;;) {
		digitalWrite(17, !digitalRead(21));
		delay(10);
	}
}
