#define F_CPU 16000000UL
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <util/delay.h>
#include <stdint.h>

/* wiring */
#define RS  (1 << PB0)
#define E   (1 << PB1)
#define AIR (1 << PC0)
#define FAN (1 << PC2)

static uint8_t answer[5];

static void nibble(uint8_t n)
{
    PORTD = (PORTD & 0x0F) | (n << 4);
    PORTB |= E;
    _delay_us(2);
    PORTB &= ~E;
    _delay_us(60);
}

static void command(uint8_t c)
{
    PORTB &= ~RS;
    nibble(c >> 4);
    nibble(c & 15);
    _delay_ms(2);
}

static void letter(char c)
{
    PORTB |= RS;
    nibble((uint8_t)c >> 4);
    nibble(c & 15);
}

static void say(PGM_P words)
{
    char c;
    while ((c = pgm_read_byte(words++)))
        letter(c);
}

static void two(uint8_t n)
{
    letter(n < 10 ? ' ' : '0' + n / 10);
    letter('0' + n % 10);
}

/* waits as long as the wire has this level; 0 if that took too long */
static uint8_t lasts(uint8_t level)
{
    uint8_t us = 0;
    while (!(PINC & AIR) == !level) {
        _delay_us(1);
        if (++us > 120)
            return 0;
    }
    return us + 1;
}

static uint8_t ask(void)
{
    DDRC |= AIR;            /* pull low for 20 ms */
    _delay_ms(20);
    DDRC &= ~AIR;
    if (!lasts(1) || !lasts(0) || !lasts(1))
        return 0;
    for (uint8_t i = 0; i < 40; i++) {
        if (!lasts(0))
            return 0;
        _delay_us(35);
        answer[i / 8] <<= 1;
        if (PINC & AIR) {
            answer[i / 8] |= 1;
            if (!lasts(1))
                return 0;
        }
    }
    return answer[4] == (uint8_t)(answer[0] + answer[1] + answer[2] + answer[3]);
}

int main(void)
{
    DDRD = 0xF0;
    DDRB = RS | E;
    DDRC = FAN;

    _delay_ms(50);
    nibble(3);
    _delay_ms(5);
    nibble(3);
    _delay_ms(1);
    nibble(3);
    nibble(2);
    command(0x28);
    command(0x0C);
    command(0x06);
    command(0x01);
    _delay_ms(1000);

    for (;;) {
        command(0x80);
        if (ask()) {
            uint8_t damp = answer[0], warm = answer[2];
            say(PSTR("T "));
            two(warm);
            say(PSTR(" C   H "));
            two(damp);
            say(PSTR(" %"));
            if (damp >= 85)
                PORTC |= FAN;
            else if (damp < 80)
                PORTC &= ~FAN;
            command(0xC0);
            say(PORTC & FAN ? PSTR("FAN ON ") : PSTR("FAN OFF"));
        } else {
            say(PSTR("NO SENSOR      "));
        }
        _delay_ms(2000);
    }
}
