/* Recursion: towers, queens, a permutation, and a list on the heap. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>

static int moves, solutions;
static uint32_t trace;
static void tower(int n, int from, int to, int over)
{
	if (n == 0)
		return;
	tower(n - 1, from, over, to);
	moves++;
	trace = trace * 31 + (uint32_t)(from * 3 + to);
	tower(n - 1, over, to, from);
}
static void queens(int row, uint32_t columns, uint32_t left, uint32_t right, int n)
{
	if (row == n) {
		solutions++;
		return;
	}
	for (int c = 0; c < n; c++) {
		uint32_t bit = 1u << c;
		if (!((columns | left | right) & bit))
			queens(row + 1, columns | bit, (left | bit) << 1, (right | bit) >> 1, n);
	}
}
static unsigned ackermann(unsigned m, unsigned n)
{
	return m == 0 ? n + 1 : n == 0 ? ackermann(m - 1, 1) : ackermann(m - 1, ackermann(m, n - 1));
}
static void permute(char *s, int n)
{
	if (n == 1) {
		for (char *c = s; *c; c++)
			trace = trace * 33 + (uint8_t)*c;
		return;
	}
	for (int i = 0; i < n; i++) {
		permute(s, n - 1);
		int k = n % 2 ? 0 : i;
		char t = s[k];
		s[k] = s[n - 1];
		s[n - 1] = t;
	}
}
struct node { struct node *next; int value; };
int main(void)
{
	tower(9, 0, 2, 1);
	printf("%d %08x\n", moves, (unsigned)trace);
	for (int n = 4; n < 8; n++) {
		solutions = 0;
		queens(0, 0, 0, 0, n);
		printf("%d ", solutions);
	}
	printf("\n%u %u\n", ackermann(2, 5), ackermann(3, 3));
	char s[] = "ABCDEF";
	permute(s, 6);
	printf("%s %08x\n", s, (unsigned)trace);
	struct node *head = 0;
	for (int i = 0; i < 200; i++) {
		struct node *one = malloc(sizeof *one);
		*one = (struct node){head, i * i % 97};
		head = one;
		if (i % 3 == 2) {
			struct node *gone = head->next;
			head->next = gone->next;
			free(gone);
		}
	}
	int count = 0, total = 0;
	for (struct node *at = head; at; at = at->next)
		count++, total += at->value * count;
	printf("%d %d\n", count, total);
	char *grown = 0;
	for (int i = 1; i <= 64; i++) {
		grown = realloc(grown, (size_t)i * 5);
		for (int k = (i - 1) * 5; k < i * 5; k++)
			grown[k] = (char)('a' + k % 26);
	}
	printf("%.30s\n", grown + 290);
	return 0;
}
