/* Doubles by their bits, wide divisions, sorting, long jumps, text. */
#include <math.h>
#include <setjmp.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
static uint64_t seed = 42;
static uint64_t next(void) { return seed = seed * 6364136223846793005ULL + 1442695040888963407ULL; }
static uint64_t bits(double d) { uint64_t u; memcpy(&u, &d, 8); return u; }
static int compare(const void *a, const void *b)
{
	uint32_t x = *(const uint32_t *)a, y = *(const uint32_t *)b;
	return (x > y) - (x < y);
}
static jmp_buf back;
int main(void)
{
	uint32_t v[50];
	for (int i = 0; i < 50; i++) {
		double a = (double)(int64_t)next() / 977.0, b = (double)(next() >> 40) + 0.25;
		uint64_t s[] = {bits(a + b), bits(a - b), bits(a * b), bits(a / b), bits(sqrt(b)), (uint64_t)(int64_t)a};
		for (int k = 0; k < 6; k++)
			printf("%08x%08x ", (unsigned)(s[k] >> 32), (unsigned)s[k]);
		uint64_t n = next(), d = next() >> (i % 60) | 1;
		n /= d;
		printf("%08x%08x %d %d\n", (unsigned)(n >> 32), (unsigned)n, a < b, (int)(float)b);
		v[i] = (uint32_t)next();
	}
	qsort(v, 50, sizeof v[0], compare);
	for (int i = 0; i < 50; i++)
		printf("%x ", (unsigned)v[i]);
	volatile int came = setjmp(back);
	if (came < 3)
		longjmp(back, came + 1);
	char text[64];
	snprintf(text, sizeof text, "%d %s %-6x| %c %5d", came, "sluice", 0xbeef, 'q', -42);
	printf("\n%s %d\n", text, (int)strlen(text));
	return 0;
}
