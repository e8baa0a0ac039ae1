/* setjmp and longjmp out of depths, with what was kept in registers and on the stack. */
#include <setjmp.h>
#include <stdio.h>

static jmp_buf back, inner;
static int depth(int n, int at)
{
	volatile int local = n * 3;
	if (n == at)
		longjmp(back, n + 100);
	int r = depth(n + 1, at) + local;
	return r + local;
}
static int twice(int x)
{
	volatile int tries = 0;
	int code = setjmp(inner);
	tries++;
	if (code < 3 && tries < 10)
		longjmp(inner, code + 1);
	return tries * 10 + code + x;
}
int main(void)
{
	for (volatile int i = 0; i < 6; i++) {
		int code = setjmp(back);
		if (code == 0)
			printf("never %d\n", depth(0, i * 2));
		else
			printf("back with %d at %d\n", code, i);
	}
	printf("%d %d\n", twice(1), twice(500));
	if (setjmp(back) == 0)
		longjmp(back, 0);
	else
		puts("0 comes as 1");
	return 0;
}
