/* Eight digits behind a MAX7219 on the SPI. */
#ifndef DIAL_DIGITS_H
#define DIAL_DIGITS_H

#include <Arduino.h>

class DialDigits {
public:
	explicit DialDigits(uint8_t loadPin = 10) : load(loadPin) {}

	/* Wakes the chip with all digits dark. level is 0 (dim) to 15 (bright). */
	void start(uint8_t level = 8);

	/* Shows a whole number at the right, without leading zeros. */
	void showNumber(uint32_t number);

private:
	void put(uint8_t address, uint8_t value);

	uint8_t load;
};

#endif
