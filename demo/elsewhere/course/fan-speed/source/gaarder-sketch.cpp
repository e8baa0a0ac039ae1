#include <Arduino.h>

const int RS = 2, E = 3, FAN = 9, NIGHT = 8;
const int data[] = {4, 5, 6, 7};

int shown = -1;
bool shownNight = false;

void clockIn(byte four)
{
	for (int i = 0; i < 4; i++)
		digitalWrite(data[i], bitRead(four, i));
	digitalWrite(E, HIGH);
	delayMicroseconds(2);
	digitalWrite(E, LOW);
	delayMicroseconds(60);
}

void sendByte(byte value, int rs)
{
	digitalWrite(RS, rs);
	clockIn(value >> 4);
	clockIn(value & 15);
}

void command(byte c)
{
	sendByte(c, LOW);
	delay(2);
}

void printAt(byte address, String text)
{
	command(0x80 | address);
	for (unsigned int i = 0; i < text.length(); i++)
		sendByte(text[i], HIGH);
}

String wide(String text)
{
	while (text.length() < 16)
		text += ' ';
	return text;
}

void show(int tens, bool night)
{
	String first = "Fan  off";
	if (tens > 0) {
		first = "Fan ";
		if (tens < 10)
			first += ' ';
		first += tens * 10;
		first += " %";
	}
	first = wide(first);
	if (night)
		first[15] = 'N';
	printAt(0x00, first);
	String bar = "";
	for (int i = 0; i < tens; i++)
		bar += '#';
	printAt(0x40, wide(bar));
}

void setup()
{
	pinMode(RS, OUTPUT);
	pinMode(E, OUTPUT);
	for (int i = 0; i < 4; i++)
		pinMode(data[i], OUTPUT);
	pinMode(FAN, OUTPUT);
	pinMode(NIGHT, INPUT_PULLUP);
	delay(50);
	digitalWrite(RS, LOW);
	clockIn(3);
	delay(5);
	clockIn(3);
	delay(1);
	clockIn(3);
	clockIn(2);
	command(0x28);
	command(0x0C);
	command(0x06);
	command(0x01);
}

void loop()
{
	int tens = analogRead(A0) * 10L / 1023;
	bool night = digitalRead(NIGHT) == LOW;
	if (night && tens > 5)
		tens = 5;
	analogWrite(FAN, tens * 255 / 10);
	if (tens != shown || night != shownNight) {
		show(tens, night);
		shown = tens;
		shownNight = night;
	}
	delay(30);
}
