/* Speed: floats and text, again and again. */
#include <avr/io.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
int main(void) {
	DDRB = 1;
	uint16_t sum = 0;
	for (uint16_t n = 1;; n++) {
		char text[24];
		float x = n / 7.0f;
		sprintf(text, "%u.%02u %ld", (unsigned)x, (unsigned)(x * 100) % 100, (long)n * n);
		for (char *p = text; *p; p++) sum += *p;
		dtostrf(sqrt(x) * sin(x), 8, 3, text);
		for (char *p = text; *p; p++) sum += *p;
		if (sum & 1) PINB = 1;
	}
}
