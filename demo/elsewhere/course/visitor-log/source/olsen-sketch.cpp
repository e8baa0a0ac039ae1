#include <Arduino.h>

#define DOOR 2
#define LAMP 13

unsigned int hour = 0;
unsigned int visitors = 0;
unsigned long last = 0;
unsigned long lastEdge = 0;
int lastState = HIGH;
int lampState = LOW;

void report()
{
	Serial.print("hour ");
	Serial.print(hour);
	Serial.print(": ");
	Serial.println(visitors);
}

void setup()
{
	pinMode(DOOR, INPUT_PULLUP);
	pinMode(LAMP, OUTPUT);
	Serial.begin(9600);
	report();
	last = millis();
}

void loop()
{
	int state = digitalRead(DOOR);
	if (state != lastState && millis() - lastEdge > 20) {
		lastEdge = millis();
		lastState = state;
		if (state == LOW) {
			visitors++;
			lampState = !lampState;
			digitalWrite(LAMP, lampState);
		}
	}
	if (millis() - last >= 1000) {
		last += 1000;
		hour++;
		report();
		visitors = 0;
	}
}
