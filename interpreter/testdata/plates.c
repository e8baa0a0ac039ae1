#include <wiringPi.h>
#include <lcd.h>
#include <softTone.h>
#include <wiringShift.h>

#define DATA 21
#define CLOCK 22
#define LATCH 23

int main(void)
{
	int post;
	wiringPiSetup();
	pinMode(DATA, OUTPUT);
	pinMode(CLOCK, OUTPUT);
	pinMode(LATCH, OUTPUT);
	post = lcdInit(2, 16, 4, 6, 5, 4, 0, 1, 3, 0, 0, 0, 0);
	lcdPosition(post, 0, 0);
	lcdPrintf(post, "Quay %d", 3);
	lcdPosition(post, 0, 1);
	lcdPuts(post, "free");
	shiftOut(DATA, CLOCK, MSBFIRST, 0x05);
	digitalWrite(LATCH, HIGH);
	digitalWrite(LATCH, LOW);
	softToneCreate(24);
	softToneWrite(24, 440);
	delay(500);
	softToneWrite(24, 0);
	return 0;
}
