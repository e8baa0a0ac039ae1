#include <avr/io.h>
#include <util/delay.h>

#define SER 3
#define LATCH 4
#define SHIFT 5

const unsigned char SEGMENTS[] = {
	0b0111111, 0b0000110, 0b1011011, 0b1001111, 0b1100110,
	0b1101101, 0b1111101, 0b0000111, 0b1111111, 0b1101111,
};

unsigned int measure(void)
{
	ADMUX = (1 << REFS0) | 2;
	ADCSRA = (1 << ADEN) | (1 << ADPS2) | (1 << ADPS1) | (1 << ADPS0);
	ADCSRA |= (1 << ADSC);
	while (ADCSRA & (1 << ADSC)) {
	}
	return ADC;
}

void shift_byte(unsigned char value)
{
	int i;
	for (i = 7; i >= 0; i--) {
		if (value & (1 << i)) {
			PORTB |= (1 << SER);
		} else {
			PORTB &= ~(1 << SER);
		}
		PORTB |= (1 << SHIFT);
		PORTB &= ~(1 << SHIFT);
	}
}

void show(unsigned char tens, unsigned char ones)
{
	shift_byte(tens);
	shift_byte(ones);
	PORTB |= (1 << LATCH);
	PORTB &= ~(1 << LATCH);
}

void tone_on(void)
{
	/* 16 MHz / 8 / 2 / 1000 = 1 kHz */
	TCCR1A = (1 << COM1A0);
	TCCR1B = (1 << WGM12) | (1 << CS11);
	OCR1A = 999;
}

void tone_off(void)
{
	TCCR1A = 0;
	TCCR1B = 0;
	PORTB &= ~(1 << 1);
}

int main(void)
{
	unsigned char sounding = 0;
	DDRB = 0b00111010;
	DDRD = 0b11110000;
	while (1) {
		unsigned long value = measure();
		unsigned char percent = value * 100 / 1024;
		unsigned char lamps = 0;

		if (percent >= 10) {
			show(SEGMENTS[percent / 10], SEGMENTS[percent % 10]);
		} else {
			show(0, SEGMENTS[percent]);
		}

		if (percent >= 25) {
			lamps |= 1 << 4;
		}
		if (percent >= 50) {
			lamps |= 1 << 5;
		}
		if (percent >= 75) {
			lamps |= 1 << 6;
		}
		if (percent >= 97) {
			lamps |= 1 << 7;
		}
		PORTD = lamps;

		if (percent < 10) {
			if (!sounding) {
				tone_on();
				sounding = 1;
			}
		} else {
			if (sounding) {
				tone_off();
				sounding = 0;
			}
		}
		_delay_ms(50);
	}
}
