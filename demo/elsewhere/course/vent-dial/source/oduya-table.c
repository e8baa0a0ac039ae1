#include <avr/interrupt.h>
#include <avr/io.h>

static const uint8_t font[10] = {0xc0, 0xf9, 0xa4, 0xb0, 0x99, 0x92, 0x82, 0xf8, 0x80, 0x90};
static const int8_t turn[16] = {0, 1, -1, 0, -1, 0, 0, 1, 1, 0, 0, -1, 0, -1, 1, 0};

static volatile int8_t opening;
static int8_t quarter;
static uint8_t last = 3, push_count;

static void show(void)
{
	PORTD = font[opening];
	if (opening > 0)
		PORTB |= _BV(5);
	else
		PORTB &= ~_BV(5);
}

ISR(TIMER0_COMPA_vect)
{
	uint8_t pins = PINC;
	uint8_t ab = (pins & 1) << 1 | (pins >> 1 & 1);
	quarter -= turn[last << 2 | ab];
	last = ab;
	if (ab == 3) {
		if (quarter >= 3 && opening < 9)
			opening++;
		if (quarter <= -3 && opening > 0)
			opening--;
		quarter = 0;
	}
	if (pins & _BV(2))
		push_count = 0;
	else if (push_count < 100)
		push_count++;
	if (push_count == 40)
		opening = 0;
	show();
}

int main(void)
{
	DDRD = 0x7f;
	DDRB = _BV(5);
	PORTC = 7;
	TCCR0A = _BV(WGM01);
	TCCR0B = _BV(CS01) | _BV(CS00);
	OCR0A = 49;
	TIMSK0 = _BV(OCIE0A);
	show();
	sei();
	for (;;)
		;
}
