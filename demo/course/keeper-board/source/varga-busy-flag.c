/* B. Varga: asks the controller whether it is ready; timer 1 counts the seconds. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdlib.h>
#include <string.h>
#include <util/delay.h>

static volatile uint8_t second;
ISR(TIMER1_COMPA_vect) { second = 1; }

static void pulse(uint8_t high)
{
	PORTD = (PORTD & 0x0f) | (high & 0xf0);
	PORTB |= _BV(2);
	_delay_us(1);
	PORTB &= ~_BV(2);
	_delay_us(1);
}

static void ready(void)
{
	uint8_t busy;
	DDRD &= 0x0f;
	PORTD &= 0x0f;
	PORTB = (PORTB & ~_BV(0)) | _BV(1);
	do {
		PORTB |= _BV(2);
		_delay_us(1);
		busy = PIND & 0x80;
		PORTB &= ~_BV(2);
		_delay_us(1);
		PORTB |= _BV(2);
		_delay_us(1);
		PORTB &= ~_BV(2);
		_delay_us(1);
	} while (busy);
	PORTB &= ~_BV(1);
	DDRD |= 0xf0;
}

static void send(uint8_t v, uint8_t data)
{
	ready();
	if (data)
		PORTB |= _BV(0);
	else
		PORTB &= ~_BV(0);
	pulse(v);
	pulse(v << 4);
}

static void text(const char *s)
{
	while (*s)
		send(*s++, 1);
}

int main(void)
{
	static const uint8_t boat[8] = {0x00, 0x04, 0x0c, 0x1c, 0x04, 0x1f, 0x0e, 0x00};
	char digits[8];

	DDRB = 7;
	DDRD = 0xf0;
	_delay_ms(50);
	for (uint8_t i = 0; i < 3; i++) {
		pulse(0x30);
		_delay_ms(5);
	}
	pulse(0x20);
	_delay_us(100);
	send(0x28, 0);
	send(0x0c, 0);
	send(0x01, 0);
	send(0x48, 0);
	for (uint8_t i = 0; i < 8; i++)
		send(boat[i], 1);
	send(0x80, 0);
	text("Wherry Lock");
	send(0x8f, 0);
	send(1, 1);
	TCCR1B = _BV(WGM12) | _BV(CS12);
	OCR1A = 62500 - 1;
	TIMSK1 = _BV(OCIE1A);
	sei();
	for (uint8_t level = 102;; level--) {
		send(0xc0, 0);
		text("Level ");
		text(itoa(level, digits, 10));
		text(" cm   ");
		if (level == 97)
			break;
		while (!second)
			;
		second = 0;
	}
	for (;;)
		;
}
