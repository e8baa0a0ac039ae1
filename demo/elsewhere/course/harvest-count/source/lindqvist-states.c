#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdio.h>
#include <string.h>
#include <util/atomic.h>
#include <util/delay.h>

enum state { COUNTING, EVENING };

static volatile uint16_t ticks;
static uint16_t crates[2];
static enum state state = COUNTING;
static uint16_t evening_since;

ISR(TIMER2_COMPA_vect)
{
	ticks++;
}

static uint16_t now(void)
{
	uint16_t t;
	ATOMIC_BLOCK(ATOMIC_RESTORESTATE)
	{
		t = ticks;
	}
	return t;
}

static void wait_ready(void)
{
	uint8_t busy;
	DDRB &= ~0x0f;
	PORTD &= ~_BV(PD2);
	PORTD |= _BV(PD3);
	do {
		PORTD |= _BV(PD4);
		_delay_us(1);
		busy = PINB & 0x08;
		PORTD &= ~_BV(PD4);
		_delay_us(1);
		PORTD |= _BV(PD4);
		_delay_us(1);
		PORTD &= ~_BV(PD4);
		_delay_us(1);
	} while (busy);
	PORTD &= ~_BV(PD3);
	DDRB |= 0x0f;
}

static void half(uint8_t n)
{
	PORTB = (PORTB & 0xf0) | n;
	PORTD |= _BV(PD4);
	_delay_us(1);
	PORTD &= ~_BV(PD4);
	_delay_us(1);
}

static void instruction(uint8_t b)
{
	wait_ready();
	half(b >> 4);
	half(b & 15);
}

static void data(uint8_t b)
{
	wait_ready();
	PORTD |= _BV(PD2);
	half(b >> 4);
	half(b & 15);
	PORTD &= ~_BV(PD2);
}

static void row(uint8_t which, const char *text)
{
	instruction(which ? 0xc0 : 0x80);
	for (uint8_t i = 0; i < 16; i++)
		data(*text ? *text++ : ' ');
}

static void draw(void)
{
	char text[20];
	if (state == EVENING) {
		sprintf(text, "Total:  %3u", crates[0] + crates[1]);
		row(0, text);
		row(1, "");
		return;
	}
	sprintf(text, "Tomato: %3u", crates[0]);
	row(0, text);
	sprintf(text, "Pepper: %3u", crates[1]);
	row(1, text);
}

struct key {
	uint8_t bit;
	uint8_t level;
	uint16_t since;
};

static struct key keys[3] = {{PC0, 1, 0}, {PC1, 1, 0}, {PC2, 1, 0}};

static uint8_t pressed(struct key *k)
{
	uint8_t level = PINC >> k->bit & 1;
	if (level != k->level && now() - k->since >= 25) {
		k->level = level;
		k->since = now();
		return !level;
	}
	return 0;
}

int main(void)
{
	DDRD = _BV(PD2) | _BV(PD3) | _BV(PD4) | _BV(PD7);
	DDRB = 0x0f;
	PORTC = 0x07;
	TCCR2A = _BV(WGM21);
	TCCR2B = _BV(CS22);
	OCR2A = 249;
	TIMSK2 = _BV(OCIE2A);
	sei();
	_delay_ms(45);
	half(3);
	_delay_ms(5);
	half(3);
	_delay_us(150);
	half(3);
	_delay_us(50);
	half(2);
	_delay_us(50);
	instruction(0x28);
	instruction(0x0c);
	instruction(0x01);
	instruction(0x06);
	draw();
	while (1) {
		switch (state) {
		case COUNTING:
			if (pressed(&keys[0])) {
				crates[0]++;
				draw();
			}
			if (pressed(&keys[1])) {
				crates[1]++;
				draw();
			}
			if (pressed(&keys[2])) {
				state = EVENING;
				evening_since = now();
				draw();
			}
			break;
		case EVENING:
			if (now() - evening_since >= 2000) {
				state = COUNTING;
				memset(crates, 0, sizeof crates);
				draw();
			}
			break;
		}
		if (crates[0] + crates[1] >= 5)
			PORTD |= _BV(PD7);
		else
			PORTD &= ~_BV(PD7);
	}
}
