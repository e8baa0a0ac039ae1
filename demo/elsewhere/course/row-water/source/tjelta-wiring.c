/* Rows of the field, one after another. */
#include <wiringPi.h>
#include <stdbool.h>

#define ROWS 4
#define WATER 1500
#define PAUSE 500

static const int valve[ROWS] = {17, 27, 22, 23};
static const int segment[7] = {12, 16, 20, 21, 26, 19, 13};
static const int START = 5, SKIP = 6;

static const char *figures[] = {
	"abcdef", "bc", "abdeg", "abcdg", "bcfg",
};

static void figure(int n)
{
	for (int i = 0; i < 7; i++) {
		bool lit = false;
		for (const char *s = figures[n]; *s; s++)
			if (*s == 'a' + i)
				lit = true;
		digitalWrite(segment[i], lit ? LOW : HIGH);
	}
}

static void shut(void)
{
	for (int i = 0; i < ROWS; i++)
		digitalWrite(valve[i], LOW);
}

/* true where skip was pressed anew */
static bool skipped(void)
{
	static int before = HIGH;
	int now = digitalRead(SKIP);
	bool pressed = before == HIGH && now == LOW;
	before = now;
	return pressed;
}

static void water(int row)
{
	unsigned since = millis();

	figure(row + 1);
	digitalWrite(valve[row], HIGH);
	while (millis() - since < WATER) {
		if (skipped())
			break;
		delay(5);
	}
	shut();
	since = millis();
	while (millis() - since < PAUSE) {
		skipped();
		delay(5);
	}
}

int main(void)
{
	wiringPiSetupGpio();
	for (int i = 0; i < ROWS; i++)
		pinMode(valve[i], OUTPUT);
	for (int i = 0; i < 7; i++)
		pinMode(segment[i], OUTPUT);
	pinMode(START, INPUT);
	pullUpDnControl(START, PUD_UP);
	pinMode(SKIP, INPUT);
	pullUpDnControl(SKIP, PUD_UP);
	shut();
	figure(0);
	for (;;) {
		if (digitalRead(START) == LOW) {
			for (int row = 0; row < ROWS; row++)
				water(row);
			figure(0);
			while (digitalRead(START) == LOW)
				delay(5);
		}
		skipped();
		delay(5);
	}
}
