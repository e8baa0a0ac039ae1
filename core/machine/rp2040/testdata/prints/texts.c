/* What string.h, ctype.h and stdlib.h do with texts. */
#include <ctype.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

int main(void)
{
	char line[80] = "  Lock 7: level=-42 mm; gates: open, closed ,half ";
	printf("%u %u\n", (unsigned)strlen(line), (unsigned)strspn(line, " "));
	char *level = strstr(line, "level=");
	char *end;
	printf("%d", (int)strtol(level + 6, &end, 10));
	printf("|%s|\n", end);
	printf("%d %d %d %u\n", (int)strtol("0x7f", 0, 0), (int)strtol("-0777", 0, 8), atoi("  19x"),
	       (unsigned)strtoul("ffffffff", 0, 16));
	char copy[80];
	strcpy(copy, strchr(line, ':') + 1);
	for (char *word = strtok(copy, " ,;:"); word; word = strtok(0, " ,;:"))
		printf("[%s]", word);
	puts("");
	for (char *c = line; *c; c++)
		*c = isalpha((unsigned char)*c) ? (char)(isupper((unsigned char)*c) ? tolower(*c) : toupper(*c))
		     : isdigit((unsigned char)*c) ? '#' : *c;
	puts(line);
	printf("%d %d %d\n", strcmp("weir", "weird") < 0, strncmp("weir", "weird", 4), memcmp("a\0b", "a\0c", 3) < 0);
	memmove(line + 3, line, 10);
	line[13] = 0;
	puts(line);
	memset(line, '=', 12);
	line[12] = 0;
	strcat(line, strrchr("a/b/c", '/'));
	puts(line);
	char out[40];
	int n = snprintf(out, sizeof out, "%5d|%-6s|%04X|%c|%+d|%%", -31, "cill", 0xbeef, 'q', 7);
	printf("%d %s\n", n, out);
	n = snprintf(out, 8, "%s", "too long for it");
	printf("%d %s\n", n, out);
	int a, b;
	char word[10];
	n = sscanf("12 gates at 0x1f", "%d %9s at %x", &a, word, (unsigned *)&b);
	printf("%d %d %s %d\n", n, a, word, b);
	return 0;
}
