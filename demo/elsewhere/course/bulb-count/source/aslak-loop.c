#define F_CPU 8000000UL
#include <avr/io.h>
#include <util/delay.h>

unsigned char digit[] = {0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D};
unsigned char bulbs, rows;

void one(unsigned char pattern, unsigned char pin)
{
    PORTB |= 0x03;
    PORTD = pattern;
    PORTB &= ~(1 << pin);
    _delay_ms(4);
}

void display(void)
{
    one(digit[rows], 0);
    one(digit[bulbs], 1);
}

void lamps(void)
{
    PORTC = 0x30 | (0x0F >> (4 - rows));
    if (rows == 4)
        PORTB |= 0x04;
    else
        PORTB &= ~0x04;
}

int main(void)
{
    unsigned char bulb_was = 0, undo_was = 0, bulb, undo;

    DDRD = 0x7F;
    DDRB = 0x07;
    DDRC = 0x0F;
    lamps();
    while (1) {
        display();
        bulb = !(PINC & 0x10);
        undo = !(PINC & 0x20);
        if (bulb && !bulb_was && rows < 4) {
            bulbs++;
            if (bulbs == 6) {
                bulbs = 0;
                rows++;
            }
        }
        if (undo && !undo_was) {
            if (bulbs > 0) {
                bulbs--;
            } else if (rows > 0) {
                rows--;
                bulbs = 5;
            }
        }
        bulb_was = bulb;
        undo_was = undo;
        lamps();
    }
}
