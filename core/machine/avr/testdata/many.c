// What the larger chip has more of: timers 3 to 5, USARTs 1 to 3, ports far from SBI, far program memory.
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <avr/sleep.h>

volatile unsigned char ticks3, ticks4, ticks5;
ISR(TIMER3_COMPA_vect) { ticks3++; PORTL ^= 1; }
ISR(TIMER4_OVF_vect) { ticks4++; PORTK ^= 2; }
ISR(TIMER5_COMPC_vect) { ticks5++; PORTJ ^= 4; }
ISR(PCINT1_vect) { PORTH ^= 8; }
ISR(INT5_vect) { PORTA ^= 16; }

static void send(volatile unsigned char *a, unsigned char c)
{
	while (!(a[0] & 32))
		;
	a[6] = c;
}

int main(void)
{
	DDRA = DDRC = DDRF = DDRG = DDRH = DDRK = DDRL = 0xff;
	DDRJ = 4;
	DDRH = 0xff;
	UBRR1 = UBRR2 = UBRR3 = 3;
	UCSR1B = UCSR2B = UCSR3B = 24;
	OCR3A = 999;
	TCCR3B = 9;
	TIMSK3 = 2;
	TCCR4A = 0xa8;
	TCCR4B = 1;
	OCR4A = 300;
	OCR4C = 30000;
	TIMSK4 = 1;
	OCR5C = 1234;
	TCCR5B = 2;
	TIMSK5 = 8;
	PCICR = 2;
	PCMSK1 = 2;
	EICRB = 4;
	EIMSK = 32;
	ADCSRA = 0xc7;
	ADCSRB = 8;
	ADMUX = 0x43;
	sei();
	for (unsigned char i = 0;; i++) {
		send(&UCSR1A, 'a' + i % 26);
		send(&UCSR2A, 'A' + i % 26);
		send(&UCSR3A, '0' + i % 10);
		PORTC = i;
		PORTF = ADCL + ADCH;
		PORTG = ticks3 + ticks4 + ticks5;
	}
}
