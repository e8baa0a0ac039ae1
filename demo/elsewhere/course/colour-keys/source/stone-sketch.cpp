#include <Arduino.h>

const int RED = 5, GREEN = 6, BLUE = 7;
const int NEXT = 8, OFF = 9;

int step = 0;
int nextBefore = HIGH;

void colour(bool r, bool g, bool b)
{
	digitalWrite(RED, r);
	digitalWrite(GREEN, g);
	digitalWrite(BLUE, b);
}

void show()
{
	if (step == 0) colour(0, 0, 0);
	if (step == 1) colour(1, 0, 0);
	if (step == 2) colour(0, 1, 0);
	if (step == 3) colour(0, 0, 1);
	if (step == 4) colour(1, 1, 1);
}

void setup()
{
	pinMode(RED, OUTPUT);
	pinMode(GREEN, OUTPUT);
	pinMode(BLUE, OUTPUT);
	pinMode(NEXT, INPUT_PULLUP);
	pinMode(OFF, INPUT_PULLUP);
}

void loop()
{
	int now = digitalRead(NEXT);
	if (now == LOW && nextBefore == HIGH) {
		step++;
		if (step > 4) {
			step = 0;
		}
	}
	nextBefore = now;
	if (digitalRead(OFF) == LOW) {
		step = 0;
	}
	show();
	delay(25);
}
