#include <Arduino.h>

const byte dinPin = 2, loadPin = 3, clkPin = 4;

const char *const drawing[3][8] = {
	{"        ", "        ", "        ", "        ", "        ", "   ##   ", "  ####  ", "   ##   "},
	{"        ", "        ", " ##     ", " ###    ", "   # ## ", "   ###  ", "   #    ", "  ###   "},
	{"  # #   ", " #####  ", "  ###   ", "   #    ", " # #    ", "  ## #  ", "   ##   ", "  ###   "},
};

byte now = 0;
unsigned long changed;

void command(byte address, byte data)
{
	digitalWrite(loadPin, LOW);
	shiftOut(dinPin, clkPin, MSBFIRST, address);
	shiftOut(dinPin, clkPin, MSBFIRST, data);
	digitalWrite(loadPin, HIGH);
}

void draw(byte which)
{
	for (byte row = 0; row < 8; row++) {
		byte bits = 0;
		for (byte column = 0; column < 8; column++) {
			bits <<= 1;
			if (drawing[which][row][column] == '#')
				bits |= 1;
		}
		command(row + 1, bits);
	}
}

void setup()
{
	pinMode(dinPin, OUTPUT);
	pinMode(loadPin, OUTPUT);
	pinMode(clkPin, OUTPUT);
	digitalWrite(loadPin, HIGH);
	command(15, 0);
	command(9, 0);
	command(10, 8);
	command(11, 7);
	draw(now);
	command(12, 1);
	changed = millis();
}

void loop()
{
	if (millis() - changed >= 700) {
		changed += 700;
		now = (now + 1) % 3;
		draw(now);
	}
}
