/* qsort with a callback, setjmp, strings, tables in flash, recursion, function pointers. */
#include "host.h"
static const uint16_t squares[] PROGMEM = {0, 1, 4, 9, 16, 25, 36, 49, 64, 81, 100};
static const char word[] PROGMEM = "sluice";
static int compare(const void *a, const void *b) { int16_t x = *(const int16_t *)a, y = *(const int16_t *)b; return (x > y) - (x < y); }
static jmp_buf back;
static void deep(uint8_t n) { volatile uint8_t pad[4]; pad[n & 3] = n; if (n == 0) longjmp(back, 7); deep(n - 1); pad[0]++; }
static uint16_t fib(uint8_t n) { return n < 2 ? n : fib(n - 1) + fib(n - 2); }
static uint8_t twice(uint8_t x) { return 2 * x; }
static uint8_t plus(uint8_t x) { return x + 100; }
static uint8_t (*const table[])(uint8_t) = {twice, plus};
int main(void) {
	begin();
	int16_t v[40];
	uint16_t s = 77;
	for (uint8_t i = 0; i < 40; i++) { s = s * 25173u + 13849u; v[i] = (int16_t)s; }
	qsort(v, 40, sizeof v[0], compare);
	for (uint8_t i = 0; i < 40; i++) printf("%d ", v[i]);
	printf("\n");
	volatile int came = setjmp(back);
	if (came == 0) deep(12);
	printf("jumped %d\n", came);
	for (uint8_t i = 0; i < 11; i++) printf("%u ", pgm_read_word(&squares[i]));
	for (uint8_t i = 0; i < 6; i++) printf("%c", pgm_read_byte(&word[i]));
	printf("\nfib %u\n", fib(15));
	for (uint8_t i = 0; i < 6; i++) printf("%u ", table[i & 1](i * 40));
	char text[32];
	strcpy(text, "gate"); strcat(text, " open");
	printf("\n%s %u %d %s\n", text, (unsigned)strlen(text), strcmp(text, "gate") > 0, strstr(text, "op"));
	printf("%ld %d\n", strtol("-123456", NULL, 10), atoi("3210"));
	char *m = malloc(100);
	memset(m, 'x', 99); m[99] = 0;
	printf("%s\n", m + 90);
	free(m);
	finish();
	return 0;
}
