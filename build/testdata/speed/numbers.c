/* Integer arithmetic of every width, floats by their bits, and printf. */
#include "host.h"
static uint32_t seed = 12345;
static uint32_t next(void) { return seed = seed * 1664525UL + 1013904223UL; }
static uint32_t bits(float f) { uint32_t u; memcpy(&u, &f, 4); return u; }
int main(void) {
	begin();
	for (uint8_t i = 0; i < 60; i++) {
		uint32_t a = next(), b = next() >> (i % 24) | 1;
		uint64_t p = (uint64_t)a * b + i, q = p / (b | 1), r = p % ((uint64_t)a + 3);
		int32_t s = (int32_t)a / (int32_t)b, t = (int32_t)a % (int32_t)b;
		uint16_t h = (uint16_t)a / (uint16_t)(b | 1);
		int8_t c = (int8_t)a * (int8_t)b;
		printf("%lx %lx %lx %lx %ld %ld %u %d\n", (unsigned long)(p >> 32) & 0xffffffffUL, (unsigned long)(uint32_t)p,
			(unsigned long)(uint32_t)q, (unsigned long)(uint32_t)r, (long)s, (long)t, h, c);
		printf("%lx %lx %d\n", (unsigned long)(uint32_t)(p << (i & 31)), (unsigned long)(uint32_t)((int64_t)p >> (i & 31)), (int64_t)p < (int64_t)q);
	}
	for (uint8_t i = 0; i < 40; i++) {
		float a = (float)(int32_t)next() / 7919.0f, b = (float)(next() & 0xffff) + 0.5f;
		printf("%08lx %08lx %08lx %08lx %ld %d\n", (unsigned long)bits(a + b), (unsigned long)bits(a - b),
			(unsigned long)bits(a * b), (unsigned long)bits(a / b), (long)a, a < b);
	}
	printf("%5d|%-6u|%04x|%c|%s|%3s|%+d\n", -42, 7, 0xbeef & 0xffff, 'q', "lock", "ab", 5);
	printf("%ld %lu %li\n", -2000000000L, 4000000000UL, 99L);
	finish();
	return 0;
}
