/* Waits by polling, in every way that a program may: for comparing interpreters. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <stdlib.h>

static volatile uint32_t overflows, ms;
static volatile uint16_t ticks;
static volatile uint8_t flag, sum;

ISR(TIMER0_OVF_vect) { overflows++; }
ISR(TIMER2_COMPA_vect) { ms++; ticks += 3; if (ms % 7 == 0) flag = 1; }

static uint32_t micros(void)
{
	uint8_t s = SREG;
	cli();
	uint32_t m = overflows;
	uint8_t t = TCNT0;
	if ((TIFR0 & _BV(TOV0)) && t < 255)
		m++;
	SREG = s;
	return ((m << 8) + t) * 4;
}

static uint32_t millis(void)
{
	uint8_t s = SREG;
	cli();
	uint32_t m = ms;
	SREG = s;
	return m;
}

static void wait(uint16_t n)
{
	uint32_t start = micros();
	while (n > 0)
		while (n > 0 && micros() - start >= 1000) {
			n--;
			start += 1000;
		}
}

int main(void)
{
	DDRB = 0xff;
	PORTD = 0x3c;
	TCCR0A = _BV(WGM01) | _BV(WGM00);
	TCCR0B = _BV(CS01) | _BV(CS00);
	TIMSK0 = _BV(TOIE0);
	TCCR1B = _BV(CS11);
	TCCR2A = _BV(WGM21);
	TCCR2B = _BV(CS22);
	OCR2A = 249;
	TIMSK2 = _BV(OCIE2A);
	sei();
	for (uint16_t round = 0;; round++) {
		uint32_t last = micros();
		while (micros() - last < 700 + round % 5 * 300)
			;
		PINB = 1;
		last = millis();
		while (millis() - last < 3)
			if (!(PIND & 4))
				sum++;
		PINB = 2;
		wait(2);
		flag = 0;
		while (!flag)
			;
		PINB = 4;
		uint16_t from = TCNT1;
		while ((uint16_t)(TCNT1 - from) < 5000)
			;
		PINB = 8;
		while ((int16_t)(TCNT1 - from) < 9000)
			;
		OCR1A = TCNT1 + 4000;
		TIFR1 = _BV(OCF1A);
		while (!(TIFR1 & _BV(OCF1A)))
			;
		PINB = 16;
		while (TCNT0 != 200)
			;
		while (TCNT0 > 20)
			if (PINC & 1)
				sum ^= 1;
		cli();
		while (!(TIFR2 & _BV(OCF2A)))
			;
		sei();
		while (ticks % 5)
			;
		from = ticks;
		while (ticks == from)
			sum += PIND;
		uint8_t n = 0;
		while (TCNT1 & 0x400)
			n++;
		sum += n;
		while (TCNT0 >= sum)
			sum |= 0x80;
		PINB = sum;
	}
}
