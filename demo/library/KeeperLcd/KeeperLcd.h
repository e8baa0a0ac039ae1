/* A 16x2 character display on four data wires. */
#ifndef KEEPER_LCD_H
#define KEEPER_LCD_H

#include <Arduino.h>

class KeeperLcd {
public:
	KeeperLcd(uint8_t rsPin, uint8_t ePin, uint8_t d4, uint8_t d5, uint8_t d6, uint8_t d7);

	/* Sets the display up: four wires, two lines, cleared. */
	void start();

	/* Writes a text from a row and column, both counted from 0. */
	void writeAt(uint8_t row, uint8_t column, const char *text);

	/* Draws one of the eight characters of its own; it is written as \1 to \7. */
	void define(uint8_t code, const uint8_t rows[8]);

private:
	void nibble(uint8_t value);
	void send(uint8_t value, bool data);

	uint8_t rs, e, wires[4];
};

#endif
