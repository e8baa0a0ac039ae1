#include <DialDigits.h>

DialDigits dial(10);
int percent = 0;
byte before = 0, pushed = 0;
int quarters = 0;

void setup()
{
	pinMode(2, INPUT_PULLUP);
	pinMode(3, INPUT_PULLUP);
	pinMode(4, INPUT_PULLUP);
	dial.start();
	dial.showNumber(0);
}

void loop()
{
	static const int8_t step[16] = {0, 1, -1, 0, -1, 0, 0, 1, 1, 0, 0, -1, 0, -1, 1, 0};
	byte now = (!digitalRead(2) << 1) | !digitalRead(3);
	quarters -= step[before << 2 | now];
	before = now;
	if (quarters >= 4 || quarters <= -4) {
		percent = constrain(percent + quarters / 4, 0, 99);
		quarters = 0;
		dial.showNumber(percent);
	}
	if (!digitalRead(4)) {
		percent = 0;
		dial.showNumber(percent);
	}
}
