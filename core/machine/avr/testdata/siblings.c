/* Timers by interrupt and polled, EEPROM, the converter, and numbers: what chips with other registers share. */
#include <avr/eeprom.h>
#include <avr/interrupt.h>
#include <avr/io.h>
#include <util/delay.h>

static volatile uint16_t ticks;

ISR(TIMER0_OVF_vect)
{
	ticks++;
	if (!(ticks & 15))
		PORTB ^= 1 << 4;
}

static uint16_t measure(uint8_t channel)
{
	ADMUX = channel;
	ADCSRA = 1 << ADEN | 1 << ADSC | 6;
	while (ADCSRA & 1 << ADSC)
		;
	return ADC;
}

int main(void)
{
	uint32_t sum = 1;
	DDRB = 0x1a;
#if defined(TCCR0)
	TCCR0 = 2;
#else
	TCCR0B = 2;
#endif
#if defined(TIMSK0)
	TIMSK0 |= 1 << TOIE0;
#else
	TIMSK |= 1 << TOIE0;
#endif
#if defined(TCCR1)
	OCR1C = 200;
	OCR1A = 60;
	TCCR1 = 1 << PWM1A | 1 << COM1A1 | 5;
#elif defined(TCCR1B)
	ICR1 = 20000;
	OCR1A = 1500;
	TCCR1A = 1 << COM1A1 | 1 << WGM11;
	TCCR1B = 1 << WGM13 | 1 << WGM12 | 2;
#endif
#if defined(TCCR2)
	OCR2 = 77;
	TCCR2 = 1 << WGM21 | 1 << COM20 | 5;
#endif
	sei();
	for (;;) {
		uint16_t at = ticks;
		while ((uint16_t)(ticks - at) < 40)
			;
		sum = sum * 1103515245u + 12345 + measure(1);
		if (sum & 0x10000)
			PORTB |= 1 << 3;
		else
			PORTB &= ~(1 << 3);
		eeprom_update_byte((uint8_t *)(uint16_t)(sum & 63), sum >> 24);
		_delay_ms(3);
	}
}
