/* 64 bits: products, quotients, shifts, comparisons, conversions, in two halves. */
#include <stdint.h>
#include <stdio.h>

static void show(const char *what, uint64_t v)
{
	printf("%s %08x%08x\n", what, (unsigned)(v >> 32), (unsigned)v);
}
static uint64_t state = 0x0123456789abcdefu;
static uint64_t next(void)
{
	state ^= state << 13;
	state ^= state >> 7;
	state ^= state << 17;
	return state;
}
int main(void)
{
	for (int i = 0; i < 24; i++) {
		uint64_t a = next() >> (i * 2 % 64), b = next() >> (i * 5 % 64) | 1;
		int64_t c = (int64_t)next() >> (i % 40), d = (int64_t)(next() >> (i * 3 % 60)) | 1;
		show("*", a * b);
		show("/", a / b);
		show("%", a % b);
		show("s/", (uint64_t)(c / d));
		show("s%", (uint64_t)(c % d));
		show("<<", a << (i * 7 % 64));
		show(">>", a >> (i * 11 % 64));
		show("s>>", (uint64_t)(c >> (i * 13 % 64)));
		printf("%d %d %d %d\n", a < b, c < d, a == b, c >= -d);
		show("m", (uint64_t)(uint32_t)a * (uint32_t)b);
		show("sm", (uint64_t)((int64_t)(int32_t)c * (int32_t)d));
		show("-", a - b);
		show("n", -a);
		printf("%d %d\n", __builtin_clzll(a | 1), __builtin_popcountll(b));
	}
	return 0;
}
