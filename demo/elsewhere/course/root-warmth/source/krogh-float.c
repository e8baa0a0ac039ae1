#define F_CPU 16000000UL
#include <avr/io.h>
#include <math.h>
#include <util/delay.h>

#define BETA 3950.0
#define R25 10000.0
#define FIXED 10000.0

static const unsigned char digit[11] = {
  0b0111111, 0b0000110, 0b1011011, 0b1001111, 0b1100110, 0b1101101,
  0b1111101, 0b0000111, 0b1111111, 0b1101111, 0
};

/* the tens go through to the second register */
static void show(unsigned char tens, unsigned char ones)
{
  SPDR = digit[tens];
  while (!(SPSR & (1 << SPIF)))
    ;
  SPDR = digit[ones];
  while (!(SPSR & (1 << SPIF)))
    ;
  PORTB |= 1 << PB2;
  PORTB &= ~(1 << PB2);
}

static unsigned measure(void)
{
  ADCSRA |= 1 << ADSC;
  while (ADCSRA & (1 << ADSC))
    ;
  return ADC;
}

static double celsius(unsigned raw)
{
  double r = FIXED * raw / (1023.0 - raw);
  double k = 1.0 / (1.0 / 298.15 + log(r / R25) / BETA);
  return k - 273.15;
}

static void colour(unsigned char pins)
{
  PORTD = (PORTD & ~0b1101000) | pins;
}

int main(void)
{
  DDRB = 1 << PB2 | 1 << PB3 | 1 << PB5;
  DDRD = 1 << PD3 | 1 << PD5 | 1 << PD6;
  SPCR = 1 << SPE | 1 << MSTR;
  ADMUX = 1 << REFS0;
  ADCSRA = 1 << ADEN | 7;

  while (1) {
    double sum = 0;
    for (char i = 0; i < 8; i++)
      sum += celsius(measure());
    int t = (int)(sum / 8 + 0.1);
    if (t < 0) t = 0;
    if (t > 99) t = 99;

    show(t < 10 ? 10 : t / 10, t % 10);

    if (t < 15)
      colour(1 << PD6);
    else if (t <= 25)
      colour(1 << PD5);
    else
      colour(1 << PD3);
    _delay_ms(250);
  }
}
