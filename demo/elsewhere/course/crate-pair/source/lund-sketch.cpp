#include <Arduino.h>

const byte segmentPins[7] = {8, 9, 10, 11, 12, 13, 7};
const byte pointPin = 6;
const byte digitPins[2] = {A0, A1};
const byte morePin = 2;
const byte lessPin = 3;

const byte figures[10][7] = {
	{1, 1, 1, 1, 1, 1, 0},
	{0, 1, 1, 0, 0, 0, 0},
	{1, 1, 0, 1, 1, 0, 1},
	{1, 1, 1, 1, 0, 0, 1},
	{0, 1, 1, 0, 0, 1, 1},
	{1, 0, 1, 1, 0, 1, 1},
	{1, 0, 1, 1, 1, 1, 1},
	{1, 1, 1, 0, 0, 0, 0},
	{1, 1, 1, 1, 1, 1, 1},
	{1, 1, 1, 1, 0, 1, 1},
};

int crates = 0;
int digit = 0;
bool moreWas = false, lessWas = false;
unsigned long checked = 0;

void setup()
{
	for (int i = 0; i < 7; i++) {
		pinMode(segmentPins[i], OUTPUT);
	}
	pinMode(pointPin, OUTPUT);
	pinMode(digitPins[0], OUTPUT);
	pinMode(digitPins[1], OUTPUT);
	pinMode(morePin, INPUT_PULLUP);
	pinMode(lessPin, INPUT_PULLUP);
}

void scan()
{
	digitalWrite(digitPins[digit], HIGH);
	digit = 1 - digit;
	int figure = digit == 0 ? crates / 10 : crates % 10;
	for (int i = 0; i < 7; i++) {
		digitalWrite(segmentPins[i], figures[figure][i] ? LOW : HIGH);
	}
	bool held = moreWas || lessWas;
	digitalWrite(pointPin, digit == 1 && held ? LOW : HIGH);
	digitalWrite(digitPins[digit], LOW);
}

void keys()
{
	if (millis() - checked < 20) {
		return;
	}
	checked = millis();
	bool more = digitalRead(morePin) == LOW;
	bool less = digitalRead(lessPin) == LOW;
	if (more && !moreWas) {
		crates = crates + 1;
		if (crates > 59) {
			crates = 0;
		}
	}
	if (less && !lessWas) {
		crates = crates - 1;
		if (crates < 0) {
			crates = 59;
		}
	}
	moreWas = more;
	lessWas = less;
}

void loop()
{
	keys();
	scan();
	delay(4);
}
