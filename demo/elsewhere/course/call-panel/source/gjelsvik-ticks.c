#include <avr/io.h>
#include <avr/interrupt.h>

/* one tick is a millisecond */
static volatile unsigned int ticks;
static volatile unsigned char number;

#define NEXT (1 << 6)
#define BACK (1 << 7)
#define LAMP (1 << 5)
#define LAST 60

ISR(TIMER0_COMPA_vect)
{
	static unsigned char ones;

	ticks++;
	if (ticks % 4)
		return;
	ones = !ones;
	PORTB |= 3;				/* both digits off: the transistors are on when low */
	PORTD = (PORTD & 0xf0) | (ones ? number % 10 : number / 10);
	PORTB &= ones ? ~2 : ~1;
}

static unsigned int now(void)
{
	unsigned int t;
	cli();
	t = ticks;
	sei();
	return t;
}

static void gong(char on)
{
	if (on)
		TCCR2A |= 1 << COM2A0;
	else
		TCCR2A &= ~(1 << COM2A0);
}

int main(void)
{
	unsigned char was = NEXT | BACK, calling = 0;
	unsigned int since = 0, looked = 0;

	DDRB = 3 | (1 << 3) | LAMP;
	DDRD = 0x0f;
	PORTD = NEXT | BACK;

	TCCR0A = 1 << WGM01;
	TCCR0B = 3;				/* 250 kHz */
	OCR0A = 249;
	TIMSK0 = 1 << OCIE0A;

	TCCR2A = 1 << WGM21;
	TCCR2B = 5;				/* 125 kHz; it toggles every 104 */
	OCR2A = 103;
	sei();

	for (;;) {
		unsigned int t = now();
		if (calling) {
			unsigned int d = t - since;
			gong(d < 400);
			if (d >= 3000) {
				calling = 0;
				PORTB &= ~LAMP;
			} else if (d / 500 % 2)
				PORTB &= ~LAMP;
			else
				PORTB |= LAMP;
		}
		if (t - looked < 10)
			continue;
		looked = t;

		unsigned char is = PIND & (NEXT | BACK);
		unsigned char down = was & ~is;
		was = is;
		if (down & NEXT) {
			number = number == LAST ? 1 : number + 1;
			calling = 1;
			since = t;
		}
		if (down & BACK && number)
			number = number == 1 ? LAST : number - 1;
	}
}
