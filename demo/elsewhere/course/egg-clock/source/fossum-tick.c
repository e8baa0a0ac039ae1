#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdbool.h>
#include <util/delay.h>

#define CLK PD6
#define DIO PD7

static const uint8_t digit[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};

static volatile uint16_t ms;

ISR(TIMER0_COMPA_vect)
{
	ms++;
}

static uint16_t now(void)
{
	cli();
	uint16_t t = ms;
	sei();
	return t;
}

static void line(uint8_t pin, bool high)
{
	if (high)
		DDRD &= ~(1 << pin);
	else
		DDRD |= 1 << pin;
	_delay_us(4);
}

static void start(void)
{
	line(DIO, true);
	line(CLK, true);
	line(DIO, false);
	line(CLK, false);
}

static void stop(void)
{
	line(CLK, false);
	line(DIO, false);
	line(CLK, true);
	line(DIO, true);
}

static void put(uint8_t byte)
{
	for (uint8_t i = 0; i < 8; i++) {
		line(CLK, false);
		line(DIO, byte & 1);
		line(CLK, true);
		byte >>= 1;
	}
	line(CLK, false);
	line(DIO, true);
	line(CLK, true);
	line(CLK, false);
}

static void show(uint16_t seconds)
{
	uint8_t m = seconds / 60, s = seconds % 60;
	start();
	put(0x40);
	stop();
	start();
	put(0xc0);
	put(digit[m / 10]);
	put(digit[m % 10] | 0x80);
	put(digit[s / 10]);
	put(digit[s % 10]);
	stop();
	start();
	put(0x88 | 5);
	stop();
}

struct key {
	uint8_t pin;
	bool down;
	uint16_t since;
};

static bool pressed(struct key *k)
{
	bool low = !(PINC & (1 << k->pin));
	if (low == k->down || now() - k->since < 20)
		return false;
	k->down = low;
	k->since = now();
	return low;
}

static void beep(bool on)
{
	if (on) {
		TCCR1A = 1 << COM1A0;
	} else {
		TCCR1A = 0;
		PORTB &= ~(1 << PB1);
	}
}

static void ring(void)
{
	for (uint8_t i = 0; i < 3; i++) {
		beep(true);
		_delay_ms(300);
		beep(false);
		_delay_ms(200);
	}
}

int main(void)
{
	struct key minute = {PC0}, ten = {PC1}, go = {PC2};
	uint16_t left = 0, second = 0;
	bool running = false;

	PORTC = 0x07;
	DDRC = 1 << PC5;
	DDRB = 1 << PB1;
	TCCR0A = 1 << WGM01;
	OCR0A = 249;
	TCCR0B = 1 << CS01 | 1 << CS00;
	TIMSK0 = 1 << OCIE0A;
	TCCR1B = 1 << WGM12 | 1 << CS11;
	OCR1A = 666;
	sei();
	show(left);
	for (;;) {
		if (pressed(&minute) && !running && left + 60 <= 600) {
			left += 60;
			show(left);
		}
		if (pressed(&ten) && !running && left + 10 <= 600) {
			left += 10;
			show(left);
		}
		if (pressed(&go) && left > 0) {
			running = !running;
			second = now();
		}
		if (running && now() - second >= 1000) {
			second += 1000;
			left--;
			show(left);
			if (left == 0)
				running = false;
		}
		if (running)
			PORTC |= 1 << PC5;
		else
			PORTC &= ~(1 << PC5);
		if (left == 0 && second != 0) {
			second = 0;
			ring();
		}
	}
}
