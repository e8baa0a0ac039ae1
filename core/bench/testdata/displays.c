/* A scanned four-digit counter (a digit every 2 ms), an LCD rewritten ten times a second, a lamp. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdio.h>
#include <util/delay.h>

static const uint8_t font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
static volatile uint16_t count;

ISR(TIMER0_COMPA_vect)
{
	static const uint16_t weight[4] = {1000, 100, 10, 1};
	static uint8_t digit;

	PORTC &= 0xf0;
	digit = (digit + 1) & 3;
	uint8_t f = font[count / weight[digit] % 10];
	PORTD = f;
	PORTC |= 1 << digit;
}

static void nibble(uint8_t v, uint8_t rs)
{
	PORTB = (PORTB & 0x20) | (v >> 4) | rs;
	PORTB |= _BV(6);
	_delay_us(1);
	PORTB &= ~_BV(6);
	_delay_us(1);
}

static void send(uint8_t v, uint8_t rs)
{
	nibble(v & 0xf0, rs);
	nibble(v << 4, rs);
	_delay_us(60);
}

int main(void)
{
	char text[17];

	DDRB = 0x7f;
	DDRC = 0x0f;
	DDRD = 0xff;
	_delay_ms(50);
	for (uint8_t i = 0; i < 3; i++) {
		nibble(0x30, 0);
		_delay_ms(5);
	}
	nibble(0x20, 0);
	send(0x28, 0);
	send(0x0c, 0);
	send(0x01, 0);
	_delay_ms(3);
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS02);
	OCR0A = 124;
	TIMSK0 = _BV(OCIE0A);
	sei();
	for (;;) {
		_delay_ms(95);
		count++;
		snprintf(text, sizeof text, "Level %5u cm", count);
		send(0x80, 0);
		for (uint8_t i = 0; text[i]; i++)
			send(text[i], 0x10);
		if (count % 5 == 0)
			PINB = _BV(5);
	}
}
