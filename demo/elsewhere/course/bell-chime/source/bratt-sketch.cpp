#include <Arduino.h>

const int CHIME = 3;
const int LAMP = A3;
const int DOOR = 7;

const int notes[] = {523, 659, 784};
const int lengths[] = {300, 300, 600};

int doorBefore = LOW;

void setup()
{
	pinMode(LAMP, OUTPUT);
	pinMode(DOOR, INPUT_PULLUP);
	delay(50);
}

void loop()
{
	int door = digitalRead(DOOR);
	if (door == HIGH && doorBefore == LOW) {
		digitalWrite(LAMP, HIGH);
		for (int i = 0; i < 3; i++) {
			tone(CHIME, notes[i]);
			delay(lengths[i]);
		}
		noTone(CHIME);
		digitalWrite(LAMP, LOW);
	}
	doorBefore = door;
	delay(10);
}
