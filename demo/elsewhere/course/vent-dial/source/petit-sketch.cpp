#include <Arduino.h>

#define KNOB_A A0
#define KNOB_B A1
#define KNOB_PUSH A2
#define LAMP 13

int vents = 0;
bool aWasLow = false;
bool pushed = false;

byte digit(int n)
{
	switch (n) {
	case 0: return B0111111;
	case 1: return B0000110;
	case 2: return B1011011;
	case 3: return B1001111;
	case 4: return B1100110;
	case 5: return B1101101;
	case 6: return B1111101;
	case 7: return B0000111;
	case 8: return B1111111;
	case 9: return B1101111;
	}
	return 0;
}

void showVents()
{
	byte lit = digit(vents);
	for (int i = 0; i < 7; i++)
		digitalWrite(i, bitRead(lit, i) ? LOW : HIGH);
	digitalWrite(LAMP, vents > 0);
}

void setup()
{
	for (int i = 0; i < 7; i++)
		pinMode(i, OUTPUT);
	pinMode(LAMP, OUTPUT);
	pinMode(KNOB_A, INPUT_PULLUP);
	pinMode(KNOB_B, INPUT_PULLUP);
	pinMode(KNOB_PUSH, INPUT_PULLUP);
	showVents();
}

void loop()
{
	bool aLow = digitalRead(KNOB_A) == LOW;
	if (aLow != aWasLow) {
		delayMicroseconds(1500);
		aLow = digitalRead(KNOB_A) == LOW;
		if (aLow && !aWasLow) {
			if (digitalRead(KNOB_B) == HIGH)
				vents = vents + 1;
			else
				vents = vents - 1;
			if (vents > 9)
				vents = 9;
			if (vents < 0)
				vents = 0;
			showVents();
		}
		aWasLow = aLow;
	}
	if (digitalRead(KNOB_PUSH) == LOW) {
		delay(10);
		if (digitalRead(KNOB_PUSH) == LOW && vents != 0) {
			vents = 0;
			showVents();
		}
	}
}
