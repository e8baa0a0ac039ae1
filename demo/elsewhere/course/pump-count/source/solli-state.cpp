#include <Arduino.h>

enum State { REST, RUN };
const byte GO = 2, HALT = 3, PUMP = 7;
const byte SEGMENT[7] = {8, 9, 10, 11, 12, 13, A3};
const byte FIGURE[10] = {63, 6, 91, 79, 102, 109, 125, 7, 127, 111};

State state = REST;
byte left = 0;
unsigned long second;
bool goWas = false, haltWas = false;

void show(byte pattern)
{
	for (byte i = 0; i < 7; i++)
		digitalWrite(SEGMENT[i], bitRead(pattern, i) ? LOW : HIGH);
}

void rest()
{
	state = REST;
	digitalWrite(PUMP, LOW);
	show(0);
}

void setup()
{
	pinMode(GO, INPUT_PULLUP);
	pinMode(HALT, INPUT_PULLUP);
	pinMode(PUMP, OUTPUT);
	for (byte i = 0; i < 7; i++)
		pinMode(SEGMENT[i], OUTPUT);
	rest();
}

void loop()
{
	bool go = digitalRead(GO) == LOW, halt = digitalRead(HALT) == LOW;
	bool started = go && !goWas, halted = halt && !haltWas;
	if (go != goWas || halt != haltWas)
		delay(8);
	goWas = go;
	haltWas = halt;
	switch (state) {
	case REST:
		if (started) {
			state = RUN;
			left = 5;
			second = millis();
			digitalWrite(PUMP, HIGH);
			show(FIGURE[left]);
		}
		break;
	case RUN:
		if (halted) {
			rest();
			break;
		}
		if (started) {
			left = min(left + 2, 9);
			show(FIGURE[left]);
		}
		if (millis() - second >= 1000) {
			second += 1000;
			left--;
			if (left == 0)
				rest();
			else
				show(FIGURE[left]);
		}
		break;
	}
}
