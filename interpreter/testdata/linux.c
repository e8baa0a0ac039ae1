#include <stdio.h>
#include <wiringPi.h>
#include <wiringPiI2C.h>
#include <wiringPiSPI.h>

static int post;
static volatile int counted;

static void half(int b)
{
	wiringPiI2CWrite(post, b | 12);
	wiringPiI2CWrite(post, b | 8);
}

static void send(int value, int rs)
{
	half((value & 0xf0) | rs);
	half((value << 4 & 0xf0) | rs);
	delay(2);
}

PI_THREAD(count)
{
	for (;;) {
		counted++;
		delay(500);
	}
}

int main(void)
{
	static const unsigned char begin[] = {0x33, 0x33, 0x32, 0x28, 0x0c, 0x06, 0x01};
	static const unsigned char digits[] = {9, 0xff, 10, 8, 11, 7, 12, 1, 15, 0, 1, 4, 2, 3, 3, 2, 4, 1, 5, 15, 6, 15, 7, 15, 8, 15};
	int n;
	char text[20];
	wiringPiSetup();
	post = wiringPiI2CSetup(0x27);
	delay(50);
	for (unsigned i = 0; i < sizeof begin; i++) {
		send(begin[i], 0);
		delay(5);
	}
	wiringPiSPISetup(0, 1000000);
	for (unsigned i = 0; i < sizeof digits; i += 2) {
		unsigned char word[2] = {digits[i], digits[i + 1]};
		wiringPiSPIDataRW(0, word, 2);
	}
	piThreadCreate(count);
	printf("Level? ");
	if (scanf("%d", &n) != 1 || counted < 3 || counted > 5)
		return 1;
	printf("it is %d\n", n + 1);
	snprintf(text, sizeof text, "Lock %d", n + 1);
	for (char *c = text; *c; c++)
		send(*c, 1);
	if (wiringPiI2CRead(wiringPiI2CSetup(0x33)) != -1 || !(wiringPiI2CRead(post) & 8))
		return 2;
	for (;;)
		delay(1000);
}
