#include <Arduino.h>

const int clkPin = 8;
const int dioPin = 9;
const int valvePin = A3;
const int keyPin = 2;

int minutes = 0;
int seconds = 0;
bool wasPressed = false;
unsigned long second;
unsigned long pressedAt = 0;

byte pattern(int digit)
{
	switch (digit) {
	case 0: return B00111111;
	case 1: return B00000110;
	case 2: return B01011011;
	case 3: return B01001111;
	case 4: return B01100110;
	case 5: return B01101101;
	case 6: return B01111101;
	case 7: return B00000111;
	case 8: return B01111111;
	case 9: return B01101111;
	}
	return 0;
}

void begin()
{
	digitalWrite(dioPin, HIGH);
	digitalWrite(clkPin, HIGH);
	digitalWrite(dioPin, LOW);
	digitalWrite(clkPin, LOW);
}

void finish()
{
	digitalWrite(clkPin, LOW);
	digitalWrite(dioPin, LOW);
	digitalWrite(clkPin, HIGH);
	digitalWrite(dioPin, HIGH);
}

void write(byte value)
{
	shiftOut(dioPin, clkPin, LSBFIRST, value);
	pinMode(dioPin, INPUT);
	digitalWrite(clkPin, HIGH);
	delayMicroseconds(5);
	digitalWrite(clkPin, LOW);
	pinMode(dioPin, OUTPUT);
}

void refresh()
{
	begin();
	write(0x40);
	finish();
	begin();
	write(0xC0);
	if (minutes < 10) {
		write(0);
	} else {
		write(pattern(minutes / 10));
	}
	write(pattern(minutes % 10) | 0x80);
	write(pattern(seconds / 10));
	write(pattern(seconds % 10));
	finish();
	begin();
	write(0x8A);
	finish();
	if (minutes > 0 || seconds > 0) {
		digitalWrite(valvePin, HIGH);
	} else {
		digitalWrite(valvePin, LOW);
	}
}

void setup()
{
	pinMode(clkPin, OUTPUT);
	pinMode(dioPin, OUTPUT);
	pinMode(valvePin, OUTPUT);
	pinMode(keyPin, INPUT_PULLUP);
	refresh();
}

void loop()
{
	bool pressed = digitalRead(keyPin) == LOW;
	if (pressed != wasPressed && millis() - pressedAt > 30) {
		pressedAt = millis();
		wasPressed = pressed;
		if (pressed) {
			seconds += 30;
			if (seconds >= 60) {
				seconds -= 60;
				minutes++;
			}
			second = millis();
			refresh();
		}
	}
	if ((minutes > 0 || seconds > 0) && millis() - second >= 1000) {
		second += 1000;
		if (seconds == 0) {
			seconds = 59;
			minutes--;
		} else {
			seconds--;
		}
		refresh();
	}
}
