#define F_CPU 16000000UL
#include <avr/io.h>
#include <util/delay.h>

/* LCD on port B: RS 0, E 1, data 2 to 5 */

void lcd_half(unsigned char n, unsigned char rs)
{
    PORTB = (n << 2) | rs;
    PORTB |= 0x02;
    _delay_us(2);
    PORTB &= ~0x02;
    _delay_us(50);
}

void lcd_byte(unsigned char b, unsigned char rs)
{
    lcd_half(b >> 4, rs);
    lcd_half(b & 0x0F, rs);
}

void lcd_command(unsigned char c)
{
    lcd_byte(c, 0);
    _delay_ms(2);
}

void lcd_text(const char *s)
{
    while (*s)
        lcd_byte(*s++, 1);
}

void lcd_start(void)
{
    _delay_ms(40);
    lcd_half(3, 0);
    _delay_ms(5);
    lcd_half(3, 0);
    _delay_ms(1);
    lcd_half(3, 0);
    lcd_half(2, 0);
    lcd_command(0x28);
    lcd_command(0x0C);
    lcd_command(0x01);
}

char table[4][4] = {
    {'1', '2', '3', 'A'},
    {'4', '5', '6', 'B'},
    {'7', '8', '9', 'C'},
    {'*', '0', '#', 'D'},
};

/* the key that is down now, 0 for none */
char key(void)
{
    unsigned char r, c;

    for (r = 0; r < 4; r++) {
        DDRD = 1 << r;
        PORTD = 0x0F & ~(1 << r);
        _delay_us(10);
        for (c = 0; c < 4; c++)
            if (!(PINC & (1 << c)))
                return table[r][c];
    }
    return 0;
}

const char *content(unsigned char n)
{
    switch (n) {
    case 1:
        return "Beet";
    case 2:
        return "Carrot";
    case 3:
        return "Chard";
    case 4:
        return "Leek";
    case 5:
        return "Onion";
    case 6:
        return "Radish";
    case 10:
        return "Squash";
    case 12:
        return "Turnip";
    default:
        return "empty";
    }
}

int main(void)
{
    unsigned char number = 0, figures = 0, confirmed = 0;
    char k, last = 0;

    DDRB = 0x3F;
    PORTC = 0x0F;
    lcd_start();
    lcd_text("Drawer: ");
    while (1) {
        k = key();
        if (k != last) {
            _delay_ms(10);
            if (key() != k)
                continue;
            last = k;
            if (k == '*' || (confirmed && k >= '0' && k <= '9')) {
                number = 0;
                figures = 0;
                confirmed = 0;
                lcd_command(0x01);
                lcd_text("Drawer: ");
            }
            if (k >= '0' && k <= '9' && figures < 2) {
                number = number * 10 + (k - '0');
                figures++;
                lcd_byte(k, 1);
            }
            if (k == '#' && figures > 0) {
                lcd_command(0xC0);
                lcd_text(content(number));
                confirmed = 1;
            }
        }
    }
}
