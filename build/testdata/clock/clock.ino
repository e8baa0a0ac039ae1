#include <GateDigits.h>

GateDigits digits(2, 3);
uint8_t hour = 11, minute = 58;
unsigned long last;

void setup()
{
	digits.start();
	show();
	last = millis();
}

void loop()
{
	if (digits.pressedKey() == 1) {
		hour = 12;
		minute = 0;
		last = millis();
		show();
	}
	if (millis() - last < 1000)
		return;
	last += 1000;
	advance();
	show();
}
