#include <avr/io.h>
#include <avr/interrupt.h>
#include <util/delay.h>

unsigned char segments[10] = {
	0b00111111, 0b00000110, 0b01011011, 0b01001111, 0b01100110,
	0b01101101, 0b01111101, 0b00000111, 0b01111111, 0b01101111
};

volatile unsigned char hours = 19, minutes = 57;
volatile unsigned int millis = 0;
unsigned char place = 0;

ISR(TIMER1_COMPA_vect)
{
	unsigned char n;

	/* next digit */
	PORTB &= 0xF0;
	place++;
	if (place == 4)
		place = 0;
	if (place == 0)
		n = hours / 10;
	else if (place == 1)
		n = hours % 10;
	else if (place == 2)
		n = minutes / 10;
	else
		n = minutes % 10;
	PORTD = segments[n] | 0x80;
	PORTB |= 1 << place;

	/* one minute each second */
	millis++;
	if (millis >= 1000) {
		millis = 0;
		minutes++;
		if (minutes >= 60) {
			minutes = 0;
			hours++;
			if (hours >= 24)
				hours = 0;
		}
	}

	if (hours >= 20 || hours < 6)
		PORTB |= 0x10;
	else
		PORTB &= ~0x10;
}

int main(void)
{
	unsigned char hour_before = 1, minute_before = 1;

	DDRD = 0xFF;
	DDRB = 0x1F;
	PORTC = 0x03;
	TCCR1B = (1 << WGM12) | (1 << CS11);
	OCR1A = 1999;
	TIMSK1 = 1 << OCIE1A;
	sei();

	while (1) {
		unsigned char hour_now = PINC & 0x01;
		unsigned char minute_now = PINC & 0x02;

		if (hour_now == 0 && hour_before != 0) {
			cli();
			hours++;
			if (hours == 24)
				hours = 0;
			sei();
		}
		if (minute_now == 0 && minute_before != 0) {
			cli();
			minutes++;
			if (minutes == 60)
				minutes = 0;
			sei();
		}
		hour_before = hour_now;
		minute_before = minute_now;
		_delay_ms(10);
	}
}
