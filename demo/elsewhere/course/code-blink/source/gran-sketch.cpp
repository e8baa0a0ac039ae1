#include <Arduino.h>

const int LAMP = 13;
const int KEY = A0;
const int SEGMENTS[7] = {0, 1, 2, 3, 4, 5, 6};
const byte SHAPES[6] = {B0000000, B0000110, B1011011, B1001111, B1100110, B1101101};

int presses = 0;
bool wasDown = false;
unsigned long lastPress = 0;

void digit(int n)
{
	for (int i = 0; i < 7; i++)
		digitalWrite(SEGMENTS[i], bitRead(SHAPES[n], i));
}

void setup()
{
	for (int i = 0; i < 7; i++)
		pinMode(SEGMENTS[i], OUTPUT);
	pinMode(LAMP, OUTPUT);
	pinMode(KEY, INPUT_PULLUP);
}

void loop()
{
	bool down = !digitalRead(KEY);
	if (down && !wasDown) {
		if (presses < 5)
			presses++;
		digit(presses);
		lastPress = millis();
	}
	if (down != wasDown)
		delay(20);
	wasDown = down;
	if (presses > 0 && millis() - lastPress > 1500) {
		digit(0);
		for (int i = 0; i < presses; i++) {
			digitalWrite(LAMP, HIGH);
			delay(200);
			digitalWrite(LAMP, LOW);
			delay(200);
		}
		presses = 0;
	}
}
