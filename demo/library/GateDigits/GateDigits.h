/* Four digits with a colon behind a TM1637, for programs with setup() and loop(). */
#ifndef GATE_DIGITS_H
#define GATE_DIGITS_H

#include <Arduino.h>

class GateDigits {
public:
	GateDigits(uint8_t clkPin, uint8_t dioPin) : clk(clkPin), dio(dioPin) {}

	/* Lets both lines go and clears the digits. level is 0 (dim) to 7 (bright). */
	void start(uint8_t level = 4);

	/* Shows hours and minutes as 11:58, the hour without a leading zero. */
	void showTime(uint8_t hour, uint8_t minute, bool colon = true);

	/* Shows four patterns, segment a in bit 0. */
	void showPatterns(const uint8_t patterns[4]);

	/* The key that is pressed, 1 to 16; 0 for none. */
	uint8_t pressedKey();

	static uint8_t digitPattern(uint8_t digit);

private:
	void line(uint8_t pin, bool high);
	void begin();
	void end();
	void send(uint8_t value);

	uint8_t clk, dio;
};

#endif
