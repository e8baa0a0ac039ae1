#include "GateDigits.h"

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

uint8_t GateDigits::digitPattern(uint8_t digit) { return digit < 10 ? font[digit] : 0; }

/* The lines are pulled up: high is letting go. */
void GateDigits::line(uint8_t pin, bool high)
{
	pinMode(pin, high ? INPUT : OUTPUT);
	delayMicroseconds(3);
}

void GateDigits::begin()
{
	line(dio, true);
	line(clk, true);
	line(dio, false);
	line(clk, false);
}

void GateDigits::end()
{
	line(clk, false);
	line(dio, false);
	line(clk, true);
	line(dio, true);
}

/* The lowest bit first; the ninth clock is the chip's acknowledgement. */
void GateDigits::send(uint8_t value)
{
	for (uint8_t i = 0; i < 8; i++, value >>= 1) {
		line(dio, value & 1);
		line(clk, true);
		line(clk, false);
	}
	line(dio, true);
	line(clk, true);
	line(clk, false);
}

void GateDigits::start(uint8_t level)
{
	const uint8_t blank[4] = {0, 0, 0, 0};

	digitalWrite(clk, LOW);
	digitalWrite(dio, LOW);
	showPatterns(blank);
	begin();
	send(0x88 | (level & 7));
	end();
}

void GateDigits::showPatterns(const uint8_t patterns[4])
{
	begin();
	send(0x40);
	end();
	begin();
	send(0xc0);
	for (uint8_t i = 0; i < 4; i++)
		send(patterns[i]);
	end();
}

void GateDigits::showTime(uint8_t hour, uint8_t minute, bool colon)
{
	const uint8_t patterns[4] = {
		hour < 10 ? (uint8_t)0 : digitPattern(hour / 10),
		(uint8_t)(digitPattern(hour % 10) | (colon ? 0x80 : 0)),
		digitPattern(minute / 10),
		digitPattern(minute % 10),
	};
	showPatterns(patterns);
}

uint8_t GateDigits::pressedKey()
{
	uint8_t code = 0;

	begin();
	send(0x42);
	for (uint8_t i = 0; i < 8; i++) {
		line(clk, true);
		code = code >> 1 | (digitalRead(dio) ? 0x80 : 0);
		line(clk, false);
	}
	line(clk, true);
	line(clk, false);
	end();
	if (code == 0xff)
		return 0;
	return 8 - (code & 7) + (code & 0x10 ? 0 : 8);
}
