#include "DialDigits.h"
#include <SPI.h>

void DialDigits::put(uint8_t address, uint8_t value)
{
	digitalWrite(load, LOW);
	SPI.transfer(address);
	SPI.transfer(value);
	digitalWrite(load, HIGH);
}

void DialDigits::start(uint8_t level)
{
	pinMode(load, OUTPUT);
	SPI.begin();
	put(15, 0);
	put(9, 0xff);
	put(11, 7);
	put(10, level);
	for (uint8_t i = 1; i <= 8; i++)
		put(i, 15);
	put(12, 1);
}

void DialDigits::showNumber(uint32_t number)
{
	for (uint8_t i = 1; i <= 8; i++) {
		put(i, number || i == 1 ? number % 10 : 15);
		number /= 10;
	}
}
