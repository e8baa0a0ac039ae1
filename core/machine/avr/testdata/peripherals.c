/* Uses every peripheral with interrupts, for comparing interpreters. */
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>

static volatile uint16_t sum;
static volatile uint8_t count;

ISR(ADC_vect) { sum += ADC; }
ISR(SPI_STC_vect) { sum ^= SPDR; SPDR = count++; }
ISR(EE_READY_vect) { EECR &= ~_BV(EERIE); sum += 3; }
ISR(ANALOG_COMP_vect) { sum++; }
ISR(TIMER1_OVF_vect) { sum += 7; }
ISR(TWI_vect) {
	sum = (sum << 1) + TWSR;
	switch (TWSR & 0xf8) {
	case 0x08: TWDR = 0x4e; TWCR = _BV(TWINT) | _BV(TWEN) | _BV(TWIE); break;
	case 0x18: TWDR = count; TWCR = _BV(TWINT) | _BV(TWEN) | _BV(TWIE); break;
	default: TWCR = _BV(TWINT) | _BV(TWEN) | _BV(TWIE) | _BV(TWSTO) | _BV(TWSTA); break;
	}
}

int main(void) {
	DDRB = 0x2e;
	DDRD = 0xff & ~0xc1;
	PORTC = 0x30;
	SPCR = _BV(SPE) | _BV(MSTR) | _BV(SPIE) | _BV(SPR0);
	ADMUX = _BV(REFS0);
	ADCSRB = 6;
	ADCSRA = _BV(ADEN) | _BV(ADATE) | _BV(ADIE) | 5;
	ACSR = _BV(ACBG) | _BV(ACIE);
	TIMSK1 = _BV(TOIE1);
	TCCR1B = _BV(CS10);
	TWBR = 72;
	TWCR = _BV(TWINT) | _BV(TWSTA) | _BV(TWEN) | _BV(TWIE);
	SPDR = 0x5a;
	sei();
	for (;;) {
		EEAR = count & 0x3ff;
		EEDR = sum;
		cli();
		EECR = _BV(EEMPE) | _BV(EERIE);
		EECR |= _BV(EEPE);
		sei();
		while (EECR & _BV(EEPE)) {
			PORTD = sum << 1;
		}
		EECR |= _BV(EERE);
		sum += EEDR;
		if (count & 4) {
			set_sleep_mode(count & 8 ? SLEEP_MODE_ADC : SLEEP_MODE_IDLE);
			sleep_mode();
		}
	}
}
