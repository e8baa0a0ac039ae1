#include <avr/io.h>
#include <avr/interrupt.h>

/* knocks: 1 long, 0 short */
const unsigned char row[4] = {1, 0, 0, 1};
const unsigned char signs[4] = {0x3F, 0x06, 0x5B, 0x4F};

#define SIGN_OPEN 0x5C
#define LONG_MS   400
#define OPEN_MS   3000

volatile unsigned int open_for;

static void judge(unsigned char is_long)
{
    static unsigned char right;

    if (is_long == row[right])
        right++;
    else
        right = 0;
    if (right == 4) {
        right = 0;
        open_for = OPEN_MS;
        PORTB |= 1 << PB1;
        PORTD = SIGN_OPEN;
    } else {
        PORTD = signs[right];
    }
}

ISR(TIMER1_COMPA_vect)
{
    static unsigned int down, up;

    if (open_for) {
        if (--open_for == 0) {
            PORTB &= ~(1 << PB1);
            PORTD = signs[0];
        }
        down = 0;
        return;
    }
    if (!(PINC & (1 << PC5))) {
        if (down < 60000)
            down++;
        up = 0;
    } else if (down) {
        if (++up >= 12) {
            if (down >= 20)
                judge(down >= LONG_MS);
            down = 0;
        }
    }
}

int main(void)
{
    DDRD = 0x7F;
    DDRB = 1 << PB1;
    PORTC = 1 << PC5;
    PORTD = signs[0];

    TCCR1B = (1 << WGM12) | (1 << CS11);
    OCR1A = 1999;
    TIMSK1 = 1 << OCIE1A;
    sei();
    for (;;)
        ;
}
