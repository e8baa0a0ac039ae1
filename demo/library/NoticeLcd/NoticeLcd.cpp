#include "NoticeLcd.h"
#include <Wire.h>

/* P0 is RS, P1 RW, P2 E, P3 the backlight, P4 to P7 the data lines. */
void NoticeLcd::port(uint8_t value)
{
	Wire.beginTransmission(address);
	Wire.write(value);
	Wire.endTransmission();
}

void NoticeLcd::nibble(uint8_t high, bool data)
{
	uint8_t value = (high & 0xf0) | backlight | (data ? 1 : 0);

	port(value | 0x04);
	port(value);
}

void NoticeLcd::send(uint8_t value, bool data)
{
	nibble(value, data);
	nibble(value << 4, data);
}

void NoticeLcd::start()
{
	Wire.begin();
	delay(60);
	for (uint8_t i = 0; i < 3; i++) {
		nibble(0x30, false);
		delay(6);
	}
	nibble(0x20, false);
	send(0x28, false);
	send(0x0c, false);
	wipe();
	send(0x06, false);
}

void NoticeLcd::wipe()
{
	send(0x01, false);
	delay(3);
}

void NoticeLcd::light(bool on)
{
	backlight = on ? 0x08 : 0;
	port(backlight);
}

void NoticeLcd::writeAt(uint8_t row, uint8_t column, const char *text)
{
	static const uint8_t start[4] = {0x00, 0x40, 0x14, 0x54};

	send(0x80 | (start[row & 3] + column), false);
	while (*text)
		send(*text++, true);
}
