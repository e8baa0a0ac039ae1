#include <Arduino.h>

const int DIN = 11, CLK = 13, LOAD = 10;

const char keymap[4][4] = {
	{'1', '2', '3', 'A'},
	{'4', '5', '6', 'B'},
	{'7', '8', '9', 'C'},
	{'*', '0', '#', 'D'},
};
const byte segments[10] = {0x7E, 0x30, 0x6D, 0x79, 0x33, 0x5B, 0x5F, 0x70, 0x7F, 0x7B};

String typed = "";
char before = 0;

void writeRegister(byte address, byte value)
{
	digitalWrite(LOAD, LOW);
	shiftOut(DIN, CLK, MSBFIRST, address);
	shiftOut(DIN, CLK, MSBFIRST, value);
	digitalWrite(LOAD, HIGH);
}

void showTyped()
{
	String text = typed;
	if (text.length() == 0)
		text = "0";
	int place = 1;
	for (int i = text.length() - 1; i >= 0; i--) {
		writeRegister(place, segments[text[i] - '0']);
		place++;
	}
	while (place <= 8) {
		writeRegister(place, 0);
		place++;
	}
}

char readKeypad()
{
	for (int r = 0; r < 4; r++) {
		pinMode(r, OUTPUT);
		digitalWrite(r, LOW);
		for (int c = 0; c < 4; c++) {
			if (digitalRead(4 + c) == LOW) {
				pinMode(r, INPUT);
				return keymap[r][c];
			}
		}
		pinMode(r, INPUT);
	}
	return 0;
}

void setup()
{
	pinMode(DIN, OUTPUT);
	pinMode(CLK, OUTPUT);
	pinMode(LOAD, OUTPUT);
	for (int c = 4; c < 8; c++)
		pinMode(c, INPUT_PULLUP);
	writeRegister(0x0F, 0);
	writeRegister(0x09, 0);
	writeRegister(0x0A, 5);
	writeRegister(0x0B, 7);
	showTyped();
	writeRegister(0x0C, 1);
}

void loop()
{
	char key = readKeypad();
	delay(15);
	if (key != readKeypad() || key == before)
		return;
	before = key;
	if (key >= '0' && key <= '9' && typed.length() < 4)
		typed += key;
	if (key == '*')
		typed = "";
	if (key)
		showTyped();
}
