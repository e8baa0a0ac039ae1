#include <Arduino.h>

const byte segmentPins[7] = {8, 9, 10, 11, 12, 13, A5};
const byte digitPins[4] = {A0, A1, A2, A3};
const byte colonPin = A4, valvePin = 7, haltPin = 2;

const byte font[10][7] = {
	{1, 1, 1, 1, 1, 1, 0}, {0, 1, 1, 0, 0, 0, 0}, {1, 1, 0, 1, 1, 0, 1}, {1, 1, 1, 1, 0, 0, 1}, {0, 1, 1, 0, 0, 1, 1},
	{1, 0, 1, 1, 0, 1, 1}, {1, 0, 1, 1, 1, 1, 1}, {1, 1, 1, 0, 0, 0, 0}, {1, 1, 1, 1, 1, 1, 1}, {1, 1, 1, 1, 0, 1, 1},
};

int left = 65;
bool running = true, wasDown = false;
unsigned long nextStep = 1000, lastEdge = 0;

void setup()
{
	for (byte i = 0; i < 7; i++)
		pinMode(segmentPins[i], OUTPUT);
	for (byte i = 0; i < 4; i++)
		pinMode(digitPins[i], OUTPUT);
	pinMode(colonPin, OUTPUT);
	pinMode(valvePin, OUTPUT);
	pinMode(haltPin, INPUT_PULLUP);
	digitalWrite(colonPin, HIGH);
	digitalWrite(valvePin, HIGH);
}

void showDigit(byte place, int value)
{
	for (byte i = 0; i < 7; i++)
		digitalWrite(segmentPins[i], value >= 0 && font[value][i]);
	digitalWrite(digitPins[place], HIGH);
	delay(2);
	digitalWrite(digitPins[place], LOW);
}

void loop()
{
	showDigit(0, -1);
	showDigit(1, left / 60);
	showDigit(2, left % 60 / 10);
	showDigit(3, left % 60 % 10);

	bool down = digitalRead(haltPin) == LOW;
	if (down != wasDown && millis() - lastEdge > 30) {
		lastEdge = millis();
		wasDown = down;
		if (down) {
			running = !running;
			nextStep = millis() + 1000;
		}
	}
	if (running && (long)(millis() - nextStep) >= 0) {
		nextStep += 1000;
		if (left > 0)
			left--;
		if (left == 0)
			digitalWrite(valvePin, LOW);
	}
}
