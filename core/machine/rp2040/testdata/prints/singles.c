/* Numbers of single precision, by their bits. */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <string.h>

static void show(const char *what, float v)
{
	uint32_t b;
	memcpy(&b, &v, 4);
	printf("%s %08x\n", what, (unsigned)b);
}
int main(void)
{
	volatile float v[] = {1, -2.5f, 3.14159265f, 1e-20f, 7e12f, 0.1f, -0.333333343f, 16777217, 1e38f, -1e-38f, 0};
	int n = sizeof v / sizeof v[0];
	for (int i = 0; i < n; i++)
		for (int k = 0; k < n; k++) {
			show("+", v[i] + v[k]);
			show("-", v[i] - v[k]);
			show("*", v[i] * v[k]);
			if (v[k] != 0)
				show("/", v[i] / v[k]);
			printf("%d%d%d\n", v[i] < v[k], v[i] == v[k], v[i] >= v[k]);
		}
	for (int i = 0; i < n; i++) {
		float a = v[i] < 0 ? -v[i] : v[i];
		show("root", sqrtf(a));
		show("floor", floorf(v[i]));
		if (a < 2e9f)
			printf("%d\n", (int)v[i]);
		show("i", (float)(int32_t)(i * 123456789));
		show("u", (float)(uint32_t)(i * 987654321u));
		show("l", (float)((int64_t)i * -1234567890123456LL));
	}
	return 0;
}
