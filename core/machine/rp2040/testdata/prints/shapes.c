/* Structures by value, bit fields, unions, arrays of functions, variable arguments, switches. */
#include <stdarg.h>
#include <stdint.h>
#include <stdio.h>

struct point { int16_t x, y; };
struct wide { uint8_t tag; uint32_t words[5]; struct point at; };
struct flags { unsigned open : 1, level : 5, mode : 3; int delta : 7; };
union view { uint32_t whole; uint16_t halves[2]; uint8_t bytes[4]; };

static struct point turned(struct point p) { return (struct point){(int16_t)-p.y, p.x}; }
static struct wide stamped(struct wide w, int by)
{
	w.tag += by;
	for (int i = 0; i < 5; i++)
		w.words[i] ^= (uint32_t)by << (i * 5);
	w.at = turned(w.at);
	return w;
}
static int add(int a, int b) { return a + b; }
static int sub(int a, int b) { return a - b; }
static int mul(int a, int b) { return a * b; }
static int sum(int n, ...)
{
	va_list list;
	va_start(list, n);
	int s = 0;
	for (int i = 0; i < n; i++)
		s += i % 3 == 2 ? (int)va_arg(list, uint64_t) : i % 3 == 1 ? (int)(va_arg(list, double) * 10) : va_arg(list, int);
	va_end(list);
	return s;
}
static const char *named(unsigned n)
{
	switch (n) {
	case 0: return "none";
	case 1: case 2: return "few";
	case 3: return "three";
	case 4: case 5: case 6: case 7: return "some";
	case 9: return "nine";
	case 100: return "hundred";
	case 70000: return "many";
	default: return "?";
	}
}
int main(void)
{
	struct wide w = {250, {1, 2, 3, 4, 5}, {300, -7}};
	for (int i = 1; i < 9; i++)
		w = stamped(w, i);
	printf("%u %x %x %x %x %x %d %d\n", w.tag, (unsigned)w.words[0], (unsigned)w.words[1], (unsigned)w.words[2],
	       (unsigned)w.words[3], (unsigned)w.words[4], w.at.x, w.at.y);
	struct flags f = {1, 29, 5, -33};
	f.level += 5;
	f.delta -= 40;
	f.mode++;
	printf("%u %u %u %d\n", f.open, f.level, f.mode, f.delta);
	union view v = {0x12345678};
	v.bytes[1] = 0xab;
	v.halves[1] += 0x1111;
	printf("%x\n", (unsigned)v.whole);
	int (*const table[])(int, int) = {add, sub, mul};
	for (int i = 0; i < 9; i++)
		printf("%d ", table[i % 3](i * 7, 3 - i));
	printf("\n%d\n", sum(6, 1, 2.5, (uint64_t)3, 4, -5.25, (uint64_t)6));
	for (unsigned n = 0; n < 12; n++)
		printf("%s ", named(n));
	printf("%s %s\n", named(100), named(70000));
	return 0;
}
