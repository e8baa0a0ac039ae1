#include <Arduino.h>
#include <SPI.h>

namespace {

const uint8_t latch = 12;
const uint8_t buzzer = 9;
const uint8_t lamp[] = {4, 5, 6, 7};
const uint8_t limit[] = {25, 50, 75, 97};
const uint8_t glyph[] = {0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F};

class Level {
public:
	void begin()
	{
		pinMode(latch, OUTPUT);
		for (uint8_t p : lamp)
			pinMode(p, OUTPUT);
		SPI.begin();
		SPI.beginTransaction(SPISettings(1000000, MSBFIRST, SPI_MODE0));
	}

	void set(int percent)
	{
		if (percent == last)
			return;
		last = percent;
		digits(percent);
		lamps(percent);
		if (percent < 10)
			tone(buzzer, 1000);
		else
			noTone(buzzer);
	}

private:
	int last = -1;

	void digits(int percent)
	{
		digitalWrite(latch, LOW);
		SPI.transfer(percent > 9 ? glyph[percent / 10] : 0);
		SPI.transfer(glyph[percent % 10]);
		digitalWrite(latch, HIGH);
	}

	void lamps(int percent)
	{
		for (uint8_t i = 0; i < 4; i++)
			digitalWrite(lamp[i], percent >= limit[i]);
	}
};

Level level;

}

void setup()
{
	level.begin();
}

void loop()
{
	int sum = 0;
	for (uint8_t i = 0; i < 8; i++)
		sum += analogRead(A2);
	level.set(map(sum / 8, 0, 1024, 0, 100));
	delay(20);
}
