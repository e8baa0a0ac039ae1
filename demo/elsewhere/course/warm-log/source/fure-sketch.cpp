#include <Arduino.h>

unsigned long next = 500;

void setup()
{
	Serial.begin(19200);
	pinMode(10, OUTPUT);
}

void loop()
{
	if (millis() < next) return;
	next += 500;
	long sum = 0;
	for (int i = 0; i < 4; i++) {
		sum += analogRead(A2);
	}
	int degrees = sum * 5000 / 4096 / 20;
	Serial.print("T=");
	Serial.print(degrees);
	if (degrees >= 8) {
		Serial.print("!");
	}
	Serial.print("\n");
	digitalWrite(10, degrees >= 8);
}
