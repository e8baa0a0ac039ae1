/* Bits and tables: CRCs, a digest, a cipher, a game of life. */
#include <stdint.h>
#include <stdio.h>
#include <string.h>

static uint32_t crc32(const uint8_t *p, unsigned n)
{
	uint32_t c = ~0u;
	while (n--) {
		c ^= *p++;
		for (int i = 0; i < 8; i++)
			c = c >> 1 ^ (0xedb88320u & -(c & 1));
	}
	return ~c;
}
static uint32_t turn(uint32_t v, int n) { return v << n | v >> (32 - n); }
static void digest(const char *text, uint32_t out[5]) /* FIPS 180-4, SHA-1, for up to 55 bytes */
{
	uint8_t block[64] = {0};
	unsigned n = (unsigned)strlen(text);
	memcpy(block, text, n);
	block[n] = 0x80;
	block[62] = (uint8_t)(n >> 5);
	block[63] = (uint8_t)(n << 3);
	uint32_t w[80], h[5] = {0x67452301, 0xefcdab89, 0x98badcfe, 0x10325476, 0xc3d2e1f0};
	for (int i = 0; i < 16; i++)
		w[i] = (uint32_t)block[4 * i] << 24 | block[4 * i + 1] << 16 | block[4 * i + 2] << 8 | block[4 * i + 3];
	for (int i = 16; i < 80; i++)
		w[i] = turn(w[i - 3] ^ w[i - 8] ^ w[i - 14] ^ w[i - 16], 1);
	uint32_t a = h[0], b = h[1], c = h[2], d = h[3], e = h[4];
	for (int i = 0; i < 80; i++) {
		uint32_t f = i < 20 ? (b & c) | (~b & d) : i < 40 || i >= 60 ? b ^ c ^ d : (b & c) | (b & d) | (c & d);
		uint32_t k = i < 20 ? 0x5a827999 : i < 40 ? 0x6ed9eba1 : i < 60 ? 0x8f1bbcdc : 0xca62c1d6;
		uint32_t t = turn(a, 5) + f + e + k + w[i];
		e = d, d = c, c = turn(b, 30), b = a, a = t;
	}
	uint32_t add[5] = {a, b, c, d, e};
	for (int i = 0; i < 5; i++)
		out[i] = h[i] + add[i];
}
static void life(uint16_t *rows)
{
	uint16_t next[16];
	for (int y = 0; y < 16; y++) {
		next[y] = 0;
		for (int x = 0; x < 16; x++) {
			int n = 0;
			for (int dy = -1; dy <= 1; dy++)
				for (int dx = -1; dx <= 1; dx++)
					if (dx || dy)
						n += rows[(y + dy) & 15] >> ((x + dx) & 15) & 1;
			if (n == 3 || (n == 2 && rows[y] >> x & 1))
				next[y] |= (uint16_t)(1 << x);
		}
	}
	memcpy(rows, next, sizeof next);
}
int main(void)
{
	const char *text = "the gate opens when both levels are the same";
	printf("%08x\n", (unsigned)crc32((const uint8_t *)text, (unsigned)strlen(text)));
	uint32_t out[5];
	digest(text, out);
	for (int i = 0; i < 5; i++)
		printf("%08x", (unsigned)out[i]);
	uint8_t s[256], x = 0, y = 0;
	for (int i = 0; i < 256; i++)
		s[i] = (uint8_t)i;
	for (int i = 0; i < 256; i++) {
		y = (uint8_t)(y + s[i] + text[i % 11]);
		uint8_t t = s[i];
		s[i] = s[y], s[y] = t;
	}
	puts("");
	for (int i = 0; i < 40; i++) {
		x++;
		y = (uint8_t)(y + s[x]);
		uint8_t t = s[x];
		s[x] = s[y], s[y] = t;
		printf("%02x", s[(uint8_t)(s[x] + s[y])]);
	}
	puts("");
	uint16_t rows[16] = {0x0002, 0x0004, 0x0007, 0, 0, 0x0700, 0, 0, 0x1818};
	for (int i = 0; i < 40; i++)
		life(rows);
	for (int i = 0; i < 16; i++)
		printf("%04x ", rows[i]);
	puts("");
	return 0;
}
