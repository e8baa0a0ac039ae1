/* Speed: integer work in RAM, no I/O but a pin now and then. */
#include "board.h"
static uint8_t sieve[1000];
int main(void)
{
	pin_output(2);
	for (;;) {
		uint16_t count = 0, crc = 0xffff;
		for (uint16_t i = 0; i < sizeof sieve; i++)
			sieve[i] = 1;
		for (uint16_t i = 2; i < sizeof sieve; i++) {
			if (!sieve[i])
				continue;
			count++;
			for (uint16_t k = 2 * i; k < sizeof sieve; k += i)
				sieve[k] = 0;
		}
		for (uint16_t i = 0; i < sizeof sieve; i++) {
			crc ^= (uint16_t)(sieve[i] << 8);
			for (uint8_t b = 0; b < 8; b++)
				crc = crc & 0x8000 ? crc << 1 ^ 0x1021 : crc << 1;
		}
		if (count == 168 && crc)
			pin_toggle(2);
	}
}
