/* Modes of the hose -- Holt */
#include <avr/io.h>
#include <avr/interrupt.h>
#include <stdint.h>

#define CLOSED 0
#define DRIPPING 1
#define RUNNING 2

volatile uint16_t ticks;        /* of 1 ms */

ISR(TIMER0_COMPA_vect)
{
    ticks++;
}

static uint16_t now(void)
{
    uint16_t t;
    cli();
    t = ticks;
    sei();
    return t;
}

int main(void)
{
    uint8_t mode = CLOSED;
    uint8_t down = 0;
    uint16_t changed = 0, pressed = 0;

    DDRB = (1 << PB0) | (1 << PB1);
    PORTB = 1 << PB2;
    TCCR0A = 1 << WGM01;
    TCCR0B = (1 << CS01) | (1 << CS00);     /* 125 kHz */
    OCR0A = 124;
    TIMSK = 1 << OCIE0A;
    sei();

    for (;;) {
        uint16_t t = now();
        uint8_t key = !(PINB & (1 << PB2));

        if (key != down && t - changed > 20) {
            changed = t;
            down = key;
            if (down) {
                mode++;
                if (mode > RUNNING)
                    mode = CLOSED;
                pressed = t;
            }
        }
        if (mode != CLOSED && t - pressed >= 10000)
            mode = CLOSED;

        switch (mode) {
        case CLOSED:
            PORTB &= ~((1 << PB0) | (1 << PB1));
            break;
        case DRIPPING:
            PORTB |= 1 << PB1;
            if ((t - pressed) % 1000 < 200)
                PORTB |= 1 << PB0;
            else
                PORTB &= ~(1 << PB0);
            break;
        case RUNNING:
            PORTB |= (1 << PB0) | (1 << PB1);
            break;
        }
    }
}
