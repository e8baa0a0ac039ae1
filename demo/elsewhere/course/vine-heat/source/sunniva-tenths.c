#include <avr/io.h>
#include <util/delay.h>

static void clock_in(void)
{
  PORTD |= _BV(PD3);
  _delay_us(1);
  PORTD &= ~_BV(PD3);
  _delay_us(50);
}

static void nibble(uint8_t n)
{
  PORTD = (PORTD & 0x0f) | (uint8_t)(n << 4);
  clock_in();
}

static void cmd(uint8_t c)
{
  PORTD &= ~_BV(PD2);
  nibble(c >> 4);
  nibble(c & 15);
  _delay_ms(2);
}

static void chr(char c)
{
  PORTD |= _BV(PD2);
  nibble((uint8_t)c >> 4);
  nibble((uint8_t)c & 15);
}

static void str(const char *s)
{
  while (*s)
    chr(*s++);
}

static void two(uint8_t n)
{
  chr(n < 10 ? ' ' : '0' + n / 10);
  chr('0' + n % 10);
}

static uint16_t measure(void)
{
  uint16_t sum = 0;
  for (uint8_t i = 0; i < 8; i++) {
    ADCSRA |= _BV(ADSC);
    while (ADCSRA & _BV(ADSC))
      ;
    sum += ADC;
  }
  return sum / 8;
}

int main(void)
{
  uint8_t now, max = 0;

  DDRD = 0xfc;
  DDRB = _BV(PB1) | _BV(PB2);
  PORTC = _BV(PC1);
  ADMUX = _BV(REFS0);
  ADCSRA = _BV(ADEN) | _BV(ADPS2) | _BV(ADPS1) | _BV(ADPS0);

  _delay_ms(40);
  nibble(3);
  _delay_ms(5);
  nibble(3);
  _delay_ms(1);
  nibble(3);
  _delay_ms(1);
  nibble(2);
  cmd(0x28);
  cmd(0x0c);
  cmd(0x01);
  cmd(0x80);
  str("Now    C");
  cmd(0xc0);
  str("Max    C");

  for (;;) {
    /* 5 V are 1024 steps, 10 mV a degree */
    now = (uint32_t)measure() * 500 / 1024;
    if (now > max)
      max = now;
    if (!(PINC & _BV(PC1)))
      max = now;

    if (now < 18)
      PORTB |= _BV(PB1);
    else if (now >= 21)
      PORTB &= ~_BV(PB1);

    if (now > 30)
      PORTB |= _BV(PB2);
    else
      PORTB &= ~_BV(PB2);

    cmd(0x84);
    two(now);
    cmd(0xc4);
    two(max);
    _delay_ms(100);
  }
}
