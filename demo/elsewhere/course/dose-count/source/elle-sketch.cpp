#include <Arduino.h>

const int CLK = 10, DIO = 11, PUMP = A5;
const int A = 2, B = 3, PUSH = 4;
const byte FIGURES[10] = {63, 6, 91, 79, 102, 109, 125, 7, 127, 111};

int doses = 0;
bool giving = false;
unsigned long given = 0;
int lastA = HIGH;
int pushed = 0;

void startBus() { digitalWrite(DIO, LOW); delayMicroseconds(2); digitalWrite(CLK, LOW); }
void stopBus() { digitalWrite(DIO, LOW); digitalWrite(CLK, HIGH); delayMicroseconds(2); digitalWrite(DIO, HIGH); }

void writeBus(byte b)
{
	for (int i = 0; i < 8; i++) {
		digitalWrite(CLK, LOW);
		digitalWrite(DIO, b & 1);
		b = b >> 1;
		digitalWrite(CLK, HIGH);
	}
	digitalWrite(CLK, LOW);
	pinMode(DIO, INPUT);
	digitalWrite(CLK, HIGH);
	digitalWrite(CLK, LOW);
	pinMode(DIO, OUTPUT);
}

void show()
{
	startBus(); writeBus(0x40); stopBus();
	startBus();
	writeBus(0xC0);
	writeBus(0);
	writeBus(0);
	writeBus(doses >= 10 ? FIGURES[doses / 10] : 0);
	writeBus(FIGURES[doses % 10]);
	stopBus();
	startBus(); writeBus(0x8F); stopBus();
}

void setup()
{
	pinMode(CLK, OUTPUT);
	pinMode(DIO, OUTPUT);
	pinMode(PUMP, OUTPUT);
	pinMode(A, INPUT_PULLUP);
	pinMode(B, INPUT_PULLUP);
	pinMode(PUSH, INPUT_PULLUP);
	digitalWrite(CLK, HIGH);
	digitalWrite(DIO, HIGH);
	show();
}

void loop()
{
	int a = digitalRead(A);
	if (a != lastA) {
		delay(3);
		a = digitalRead(A);
		if (a != lastA) {
			lastA = a;
			if (a == LOW && !giving) {
				if (digitalRead(B) == HIGH) {
					doses += 5;
				} else {
					doses -= 5;
				}
				doses = constrain(doses, 0, 60);
				show();
			}
		}
	}
	if (digitalRead(PUSH) == LOW) {
		if (pushed < 1000) pushed++;
	} else {
		pushed = 0;
	}
	if (pushed == 500 && doses > 0) {
		giving = true;
		digitalWrite(PUMP, HIGH);
		given = millis();
	}
	if (giving && millis() - given >= 400) {
		given += 400;
		doses--;
		show();
		if (doses == 0) {
			giving = false;
			digitalWrite(PUMP, LOW);
		}
	}
}
