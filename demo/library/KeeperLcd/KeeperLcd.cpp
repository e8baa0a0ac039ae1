#include "KeeperLcd.h"

KeeperLcd::KeeperLcd(uint8_t rsPin, uint8_t ePin, uint8_t d4, uint8_t d5, uint8_t d6, uint8_t d7) : rs(rsPin), e(ePin)
{
	wires[0] = d4;
	wires[1] = d5;
	wires[2] = d6;
	wires[3] = d7;
}

void KeeperLcd::nibble(uint8_t value)
{
	for (uint8_t i = 0; i < 4; i++)
		digitalWrite(wires[i], value >> i & 1);
	digitalWrite(e, HIGH);
	delayMicroseconds(1);
	digitalWrite(e, LOW);
	delayMicroseconds(70);
}

void KeeperLcd::send(uint8_t value, bool data)
{
	digitalWrite(rs, data);
	nibble(value >> 4);
	nibble(value);
}

void KeeperLcd::start()
{
	pinMode(rs, OUTPUT);
	pinMode(e, OUTPUT);
	for (uint8_t i = 0; i < 4; i++)
		pinMode(wires[i], OUTPUT);
	delay(50);
	digitalWrite(rs, LOW);
	for (uint8_t i = 0; i < 3; i++) {
		nibble(3);
		delay(5);
	}
	nibble(2);
	send(0x28, false);
	send(0x0c, false);
	send(0x01, false);
	delay(3);
	send(0x06, false);
}

void KeeperLcd::writeAt(uint8_t row, uint8_t column, const char *text)
{
	send(0x80 | ((row ? 0x40 : 0) + column), false);
	while (*text)
		send(*text++, true);
}

void KeeperLcd::define(uint8_t code, const uint8_t rows[8])
{
	send(0x40 | (code & 7) << 3, false);
	for (uint8_t i = 0; i < 8; i++)
		send(rows[i], true);
}
