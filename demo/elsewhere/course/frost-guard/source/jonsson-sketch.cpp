#include <Arduino.h>

const int dataPin = 5, clockPin = 6, latchPin = 7, heaterPin = 9;

const byte numbers[] = {0xC0, 0xF9, 0xA4, 0xB0, 0x99, 0x92, 0x82, 0xF8, 0x80, 0x90};
const byte blank = 0xFF;

void setup()
{
	pinMode(dataPin, OUTPUT);
	pinMode(clockPin, OUTPUT);
	pinMode(latchPin, OUTPUT);
	pinMode(heaterPin, OUTPUT);
}

void loop()
{
	int raw = analogRead(A4);
	long millivolts = raw * 5000L / 1024;
	int degrees = (millivolts + 3) / 20;

	byte tens = blank;
	if (degrees >= 10)
		tens = numbers[degrees / 10];
	byte ones = numbers[degrees % 10];

	digitalWrite(latchPin, LOW);
	shiftOut(dataPin, clockPin, MSBFIRST, tens);
	shiftOut(dataPin, clockPin, MSBFIRST, ones);
	digitalWrite(latchPin, HIGH);

	if (millivolts < 98)
		digitalWrite(heaterPin, HIGH);
	else
		digitalWrite(heaterPin, LOW);
	delay(50);
}
