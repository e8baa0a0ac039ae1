#include <Arduino.h>

const int coverLamp = 5;
String command = "";

void answer(String text)
{
	Serial.print(text);
	Serial.print('\n');
}

void setup()
{
	Serial.begin(19200);
	pinMode(coverLamp, OUTPUT);
	digitalWrite(coverLamp, LOW);
	answer("Farrow Hill mast");
}

void loop()
{
	while (Serial.available() > 0) {
		char c = Serial.read();
		if (c == '\n') {
			if (command == "rain on") {
				digitalWrite(coverLamp, HIGH);
				answer("cover closed");
			} else if (command == "rain off") {
				digitalWrite(coverLamp, LOW);
				answer("cover open");
			} else {
				answer("what?");
			}
			command = "";
		} else {
			command += c;
		}
	}
}
