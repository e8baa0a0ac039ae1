#include <avr/interrupt.h>
#include <avr/io.h>
#include <util/delay.h>

static volatile uint16_t ms;
static volatile uint8_t second;
static uint8_t h = 9, m = 59, s = 57;

ISR(TIMER1_COMPA_vect)
{
	if (++ms == 1000) {
		ms = 0;
		second = 1;
	}
}

static void nibble(uint8_t n)
{
	PORTC = (PORTC & 0xf0) | n;
	PORTB |= 2;
	_delay_us(1);
	PORTB &= ~2;
	_delay_us(50);
}

static void command(uint8_t c)
{
	PORTB &= ~1;
	nibble(c >> 4);
	nibble(c & 15);
	_delay_ms(2);
}

static void letter(char c)
{
	PORTB |= 1;
	nibble((uint8_t)c >> 4);
	nibble(c & 15);
}

static void text(const char *t)
{
	while (*t)
		letter(*t++);
}

static void two(uint8_t n)
{
	letter('0' + n / 10);
	letter('0' + n % 10);
}

static void show(void)
{
	command(0xc5);
	two(h);
	letter(':');
	two(m);
	letter(':');
	two(s);
}

int main(void)
{
	uint8_t down = 0;

	DDRB = 3;
	DDRC = 15;
	PORTD = 1 << PD6;
	_delay_ms(40);
	nibble(3);
	_delay_ms(5);
	nibble(3);
	_delay_ms(1);
	nibble(3);
	nibble(2);
	command(0x28);
	command(0x0c);
	command(0x01);
	text("Tea house");
	command(0xc0);
	text("Time ");
	show();
	TCCR1B = (1 << WGM12) | (1 << CS11);
	OCR1A = 1999;
	TIMSK1 = 1 << OCIE1A;
	sei();
	for (;;) {
		if (second) {
			second = 0;
			if (++s == 60) {
				s = 0;
				if (++m == 60) {
					m = 0;
					if (++h == 24)
						h = 0;
				}
			}
			show();
		}
		if (!(PIND & (1 << PD6))) {
			if (down < 10 && ++down == 10) {
				if (++h == 24)
					h = 0;
				show();
			}
		} else {
			down = 0;
		}
		_delay_ms(1);
	}
}
