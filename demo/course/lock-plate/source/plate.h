/* The plate's letters, as columns of dots with the top one in bit 0, and what is sent to an SSD1306. */
#include <avr/io.h>
#include <util/delay.h>

#define ADDRESS 0x3c
#define COMMANDS 0x00
#define DATA 0x40

static const struct {
	char letter;
	uint8_t columns[5];
} font[] = {
	{'A', {0x7e, 0x11, 0x11, 0x11, 0x7e}},
	{'B', {0x7f, 0x49, 0x49, 0x49, 0x36}},
	{'C', {0x3e, 0x41, 0x41, 0x41, 0x22}},
	{'E', {0x7f, 0x49, 0x49, 0x49, 0x41}},
	{'F', {0x7f, 0x09, 0x09, 0x09, 0x01}},
	{'H', {0x7f, 0x08, 0x08, 0x08, 0x7f}},
	{'K', {0x7f, 0x08, 0x14, 0x22, 0x41}},
	{'L', {0x7f, 0x40, 0x40, 0x40, 0x40}},
	{'M', {0x7f, 0x02, 0x0c, 0x02, 0x7f}},
	{'O', {0x3e, 0x41, 0x41, 0x41, 0x3e}},
	{'P', {0x7f, 0x09, 0x09, 0x09, 0x06}},
	{'R', {0x7f, 0x09, 0x19, 0x29, 0x46}},
	{'T', {0x01, 0x01, 0x7f, 0x01, 0x01}},
	{'U', {0x3f, 0x40, 0x40, 0x40, 0x3f}},
	{'W', {0x3f, 0x40, 0x38, 0x40, 0x3f}},
	{'Y', {0x07, 0x08, 0x70, 0x08, 0x07}},
};

static void wait(uint8_t control)
{
	TWCR = control | _BV(TWINT) | _BV(TWEN);
	while (!(TWCR & _BV(TWINT)))
		;
}

static void start(uint8_t what)
{
	wait(_BV(TWSTA));
	TWDR = ADDRESS << 1;
	wait(0);
	TWDR = what;
	wait(0);
}

static void byte(uint8_t v)
{
	TWDR = v;
	wait(0);
}

static void stop(void)
{
	TWCR = _BV(TWINT) | _BV(TWEN) | _BV(TWSTO);
	while (TWCR & _BV(TWSTO))
		;
}

static void commands(const uint8_t *v, uint8_t n)
{
	start(COMMANDS);
	while (n--)
		byte(*v++);
	stop();
}

static void letter(char c)
{
	uint8_t i, x;

	for (i = 0; i < sizeof font / sizeof *font && font[i].letter != c; i++)
		;
	for (x = 0; x < 5; x++)
		byte(i < sizeof font / sizeof *font ? font[i].columns[x] : 0);
	byte(0);
}

/* By pages, in page addressing. */
static void page(uint8_t at, uint8_t column)
{
	uint8_t v[] = {0xb0 | at, column & 15, 0x10 | column >> 4};

	commands(v, sizeof v);
}

static void clear(void)
{
	uint8_t at, x;

	for (at = 0; at < 8; at++) {
		page(at, 0);
		start(DATA);
		for (x = 0; x < 128; x++)
			byte(0);
		stop();
	}
}

static void line(uint8_t at, const char *text)
{
	page(at, 10);
	start(DATA);
	while (*text)
		letter(*text++);
	stop();
}

/* The whole of it: clears where it is told to, says what there is to say. */
static void run(const uint8_t *begin, uint8_t n, uint8_t cleared)
{
	static const uint8_t on = 0xaf;

	TWBR = 12; /* 400 kHz */
	_delay_ms(10);
	commands(begin, n);
	if (cleared)
		clear();
	line(1, "WHERRY LOCK");
	line(4, "CHAMBER FULL ");
	commands(&on, 1);
	for (;;) {
		_delay_ms(994);
		line(4, "CHAMBER EMPTY");
		_delay_ms(994);
		line(4, "CHAMBER FULL ");
	}
}
