/* qsort and bsearch over numbers, structures and texts. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

struct boat { char name[12]; uint16_t length; int32_t toll; };

static int by_value(const void *a, const void *b)
{
	int32_t x = *(const int32_t *)a, y = *(const int32_t *)b;
	return (x > y) - (x < y);
}
static int by_toll(const void *a, const void *b)
{
	const struct boat *x = a, *y = b;
	return x->toll != y->toll ? (x->toll > y->toll) - (x->toll < y->toll) : strcmp(x->name, y->name);
}
static int by_text(const void *a, const void *b) { return strcmp(*(char *const *)a, *(char *const *)b); }

int main(void)
{
	static int32_t v[120];
	uint32_t seed = 12345;
	for (int i = 0; i < 120; i++) {
		seed = seed * 1664525u + 1013904223u;
		v[i] = (int32_t)(seed >> 4) % 5000 - 2500;
	}
	qsort(v, 120, sizeof v[0], by_value);
	for (int i = 0; i < 120; i++)
		printf("%d%c", (int)v[i], i % 12 == 11 ? '\n' : ' ');
	for (int32_t k = -2500; k < 2500; k += 333) {
		int32_t *at = bsearch(&k, v, 120, sizeof v[0], by_value);
		printf("%d %s\n", (int)k, at ? "found" : "missing");
	}
	struct boat boats[] = {{"wherry", 18, 40}, {"lighter", 25, 55}, {"punt", 7, -3}, {"keel", 19, 40}, {"skiff", 6, 0}};
	qsort(boats, 5, sizeof boats[0], by_toll);
	for (int i = 0; i < 5; i++)
		printf("%-8s %3u %4d\n", boats[i].name, boats[i].length, (int)boats[i].toll);
	const char *names[] = {"sluice", "gate", "weir", "paddle", "cill", "basin"};
	qsort(names, 6, sizeof names[0], by_text);
	for (int i = 0; i < 6; i++)
		puts(names[i]);
	return 0;
}
