#include <avr/interrupt.h>
#include <avr/io.h>
#include <string.h>
#include <util/delay.h>

static char screen[2][16];
static volatile uint16_t clock_ms;

ISR(TIMER0_COMPA_vect)
{
	clock_ms++;
}

static uint16_t millis(void)
{
	uint16_t t;
	cli();
	t = clock_ms;
	sei();
	return t;
}

static void strobe(uint8_t high4)
{
	PORTC &= ~0x3c;
	PORTC |= (high4 >> 2) & 0x3c;
	PORTC |= 0x02;
	_delay_us(2);
	PORTC &= ~0x02;
	_delay_us(50);
}

static void command(uint8_t c)
{
	PORTC &= ~0x01;
	strobe(c & 0xf0);
	strobe(c << 4);
}

static void character(uint8_t c)
{
	PORTC |= 0x01;
	strobe(c & 0xf0);
	strobe(c << 4);
}

static void flush(void)
{
	command(0x80);
	for (uint8_t i = 0; i < 16; i++)
		character(screen[0][i]);
	command(0xc0);
	for (uint8_t i = 0; i < 16; i++)
		character(screen[1][i]);
}

static void put(uint8_t row, const char *text)
{
	memset(screen[row], ' ', 16);
	memcpy(screen[row], text, strlen(text));
}

static void start(void)
{
	static const uint8_t glyph[] = {
		0b00100,
		0b01110,
		0b11111,
		0b01110,
		0b00100,
		0b00100,
		0b01000,
		0b00000,
	};
	_delay_ms(50);
	PORTC &= ~0x01;
	strobe(0x30);
	_delay_ms(5);
	strobe(0x30);
	_delay_ms(1);
	strobe(0x30);
	strobe(0x20);
	command(0x28);
	command(0x0c);
	command(0x06);
	command(0x01);
	_delay_ms(2);
	command(0x40 + 8);
	for (uint8_t i = 0; i < sizeof glyph; i++)
		character(glyph[i]);
}

int main(void)
{
	uint8_t which = 0;
	uint16_t since;

	DDRC = 0x3f;
	TCCR0A = _BV(WGM01);
	OCR0A = 249;
	TCCR0B = _BV(CS01) | _BV(CS00);
	TIMSK0 = _BV(OCIE0A);
	start();
	sei();
	put(0, "Farrow Hill");
	screen[0][15] = 1;
	put(1, "Cactus house");
	flush();
	since = millis();
	for (;;) {
		if (millis() - since < 1200)
			continue;
		since += 1200;
		which = (which + 1) % 3;
		if (which == 0)
			put(1, "Cactus house");
		else if (which == 1)
			put(1, "Ferns");
		else
			put(1, "Orchids");
		flush();
	}
}
