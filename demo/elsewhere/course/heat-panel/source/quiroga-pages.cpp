#include <Arduino.h>
#include <Wire.h>

const byte OLED = 0x3C;
const byte A_PIN = 2;
const byte B_PIN = 3;
const byte PUMP = 8;

volatile int turns = 0;
int step = 0;

void oledCommand(byte c)
{
	Wire.beginTransmission(OLED);
	Wire.write(0x80);
	Wire.write(c);
	Wire.endTransmission();
}

void place(byte page, byte column)
{
	oledCommand(0xB0 + page);
	oledCommand(0x00 + (column & 15));
	oledCommand(0x10 + (column >> 4));
}

void columns(const byte *bits, byte count)
{
	Wire.beginTransmission(OLED);
	Wire.write(0x40);
	for (byte i = 0; i < count; i++)
		Wire.write(bits[i]);
	Wire.endTransmission();
}

const byte heater[] = {
	0x7F, 0x08, 0x08, 0x08, 0x7F, 0, 0x7F, 0x49, 0x49, 0x49, 0x41, 0, 0x7E, 0x11, 0x11, 0x11, 0x7E, 0,
};
const byte heater2[] = {
	0x01, 0x01, 0x7F, 0x01, 0x01, 0, 0x7F, 0x49, 0x49, 0x49, 0x41, 0, 0x7F, 0x09, 0x19, 0x29, 0x46, 0,
};
const byte stepWord[] = {
	0x46, 0x49, 0x49, 0x49, 0x31, 0, 0x01, 0x01, 0x7F, 0x01, 0x01, 0, 0x7F, 0x49, 0x49, 0x49, 0x41, 0,
	0x7F, 0x09, 0x09, 0x09, 0x06, 0,
};
const byte digits[5][5] = {
	{0x3E, 0x51, 0x49, 0x45, 0x3E}, {0x00, 0x42, 0x7F, 0x40, 0x00}, {0x42, 0x61, 0x51, 0x49, 0x46},
	{0x21, 0x41, 0x45, 0x4B, 0x31}, {0x18, 0x14, 0x12, 0x7F, 0x10},
};

void turned()
{
	static unsigned long last = 0;
	if (millis() - last < 4)
		return;
	last = millis();
	if (digitalRead(A_PIN) == LOW) {
		if (digitalRead(B_PIN) == HIGH)
			turns++;
		else
			turns--;
	}
}

void clearAll()
{
	byte zero[16] = {0};
	for (byte p = 0; p < 8; p++) {
		place(p, 0);
		for (byte i = 0; i < 8; i++)
			columns(zero, 16);
	}
}

void showStep()
{
	place(1, 30);
	columns(digits[step], 5);
	digitalWrite(PUMP, step > 0 ? HIGH : LOW);
}

void setup()
{
	pinMode(A_PIN, INPUT_PULLUP);
	pinMode(B_PIN, INPUT_PULLUP);
	pinMode(PUMP, OUTPUT);
	Wire.begin();
	Wire.setClock(400000);
	oledCommand(0xAE);
	oledCommand(0x8D);
	oledCommand(0x14);
	oledCommand(0x20);
	oledCommand(0x02);
	oledCommand(0xA1);
	oledCommand(0xC8);
	oledCommand(0x40);
	clearAll();
	place(0, 0);
	columns(heater, 18);
	columns(heater2, 18);
	place(1, 0);
	columns(stepWord, 24);
	showStep();
	oledCommand(0xAF);
	attachInterrupt(digitalPinToInterrupt(A_PIN), turned, CHANGE);
}

void loop()
{
	noInterrupts();
	int t = turns;
	turns = 0;
	interrupts();
	if (t != 0) {
		step = constrain(step + t, 0, 4);
		showStep();
	}
}
