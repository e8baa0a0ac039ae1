#include <Arduino.h>

const byte shapes[10] = {
	B11000000, B11111001, B10100100, B10110000, B10011001, B10010010, B10000010, B11111000, B10000000, B10010000,
};
const byte goPin = A0, zeroPin = A1;

unsigned long startedAt = 0, stopped = 0;
bool running = false;
bool goBefore = false, zeroBefore = false;
unsigned long goSince = 0, zeroSince = 0;

void setup()
{
	DDRD = 0xFF;
	for (byte p = 8; p <= 10; p++) {
		pinMode(p, OUTPUT);
		digitalWrite(p, HIGH);
	}
	pinMode(goPin, INPUT_PULLUP);
	pinMode(zeroPin, INPUT_PULLUP);
}

bool pressed(byte pin, bool &before, unsigned long &since)
{
	bool down = digitalRead(pin) == LOW;
	if (down == before || millis() - since < 25)
		return false;
	before = down;
	since = millis();
	return down;
}

void showPlace(byte place, byte bits)
{
	PORTD = bits;
	digitalWrite(8 + place, LOW);
	delay(3);
	digitalWrite(8 + place, HIGH);
}

void loop()
{
	unsigned long elapsed = stopped;
	if (running)
		elapsed += millis() - startedAt;
	unsigned int tenths = elapsed / 100 % 1000;

	if (tenths >= 100)
		showPlace(0, shapes[tenths / 100]);
	else
		showPlace(0, 0xFF);
	showPlace(1, shapes[tenths / 10 % 10] & B01111111);
	showPlace(2, shapes[tenths % 10]);

	if (pressed(goPin, goBefore, goSince)) {
		if (running)
			stopped += millis() - startedAt;
		else
			startedAt = millis();
		running = !running;
	}
	if (pressed(zeroPin, zeroBefore, zeroSince) && !running)
		stopped = 0;
}
