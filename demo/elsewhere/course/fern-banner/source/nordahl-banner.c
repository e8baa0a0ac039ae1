/* Banner of the fern house, E. Nordahl */
#include <avr/io.h>
#include <avr/interrupt.h>
#include <util/delay.h>

#define RS 0
#define EN 1

static const char text[] = "Ferns and mosses, ";
#define LENGTH 18

static volatile uint8_t tick;
static uint8_t at;
static uint8_t visitors;
static uint16_t wait = 500;
static uint16_t guide;

ISR(TIMER2_COMP_vect)
{
	tick = 1;
}

static void half(uint8_t n)
{
	PORTC = (PORTC & 0x03) | (n << 2);
	PORTC |= 1 << EN;
	_delay_us(2);
	PORTC &= ~(1 << EN);
	_delay_us(45);
}

static void command(uint8_t c)
{
	PORTC &= ~(1 << RS);
	half(c >> 4);
	half(c & 15);
}

static void letter(char c)
{
	PORTC |= 1 << RS;
	half((uint8_t)c >> 4);
	half(c & 15);
}

static void print(const char *s)
{
	while (*s)
		letter(*s++);
}

static void draw_text(void)
{
	uint8_t i, from = at;
	command(0x80);
	for (i = 0; i < 16; i++) {
		letter(text[from]);
		from++;
		if (from == LENGTH)
			from = 0;
	}
}

static void draw_visitors(void)
{
	command(0xC0);
	print("Visitors ");
	letter(visitors >= 100 ? '0' + visitors / 100 : ' ');
	letter(visitors >= 10 ? '0' + visitors / 10 % 10 : ' ');
	letter('0' + visitors % 10);
}

static void start_lcd(void)
{
	_delay_ms(50);
	half(3);
	_delay_ms(5);
	half(3);
	_delay_ms(1);
	half(3);
	half(2);
	command(0x28);
	command(0x0C);
	command(0x06);
	command(0x01);
	_delay_ms(2);
}

int main(void)
{
	uint8_t seen = 0, inside = 0;

	DDRC = 0x3F;
	DDRB = 0x01;
	PORTD = (1 << PD2) | (1 << PD3);
	TCCR2 = (1 << WGM21) | (1 << CS22);
	OCR2 = 124;
	TIMSK = 1 << OCIE2;
	start_lcd();
	draw_text();
	draw_visitors();
	sei();
	for (;;) {
		if (!tick)
			continue;
		tick = 0;
		/* the barrier */
		if (!(PIND & (1 << PD2))) {
			if (seen < 10)
				seen++;
			if (seen == 10 && !inside) {
				inside = 1;
				visitors++;
				draw_visitors();
				if (visitors % 4 == 0)
					guide = 2000;
			}
		} else {
			if (seen > 0)
				seen--;
			if (seen == 0)
				inside = 0;
		}
		/* the lamp */
		if (guide > 0) {
			guide--;
			PORTB |= 1 << PB0;
		} else {
			PORTB &= ~(1 << PB0);
		}
		/* the text */
		if (PIND & (1 << PD3)) {
			if (--wait == 0) {
				wait = 500;
				at++;
				if (at == LENGTH)
					at = 0;
				draw_text();
			}
		}
	}
}
