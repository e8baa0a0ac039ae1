/* A character display behind a PCF8574 on two wires. */
#ifndef NOTICE_LCD_H
#define NOTICE_LCD_H

#include <Arduino.h>

class NoticeLcd {
public:
	explicit NoticeLcd(uint8_t busAddress = 0x27) : address(busAddress) {}

	/* Sets the display up: four wires, two lines, cleared, backlight on. */
	void start();

	/* Writes a text from a row and column, both counted from 0; rows 2 and 3 are those of a 20x4. */
	void writeAt(uint8_t row, uint8_t column, const char *text);

	void wipe();
	void light(bool on);

private:
	void port(uint8_t value);
	void nibble(uint8_t high, bool data);
	void send(uint8_t value, bool data);

	uint8_t address;
	uint8_t backlight = 0x08;
};

#endif
