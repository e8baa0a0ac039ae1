/* seed packet stand
   lcd on PORTD high nibble, RS PB0, E PB1, lamp PB2, coin PC0, give PC1 */
#include <avr/io.h>
#include <util/delay.h>
#include <stdlib.h>

#define PRICE 2
#define MAX_COINS 5

uint8_t coins = 0;
uint8_t packets = 3;
uint16_t lamp_left = 0;

static void pulse(void) {
    PORTB |= 1 << PB1;
    _delay_us(2);
    PORTB &= ~(1 << PB1);
    _delay_us(60);
}

static void lcd_byte(uint8_t v, uint8_t is_data) {
    if (is_data)
        PORTB |= 1 << PB0;
    else
        PORTB &= ~(1 << PB0);
    PORTD = (PORTD & 0x0F) | (v & 0xF0);
    pulse();
    PORTD = (PORTD & 0x0F) | (v << 4);
    pulse();
    if (!is_data && v < 4)
        _delay_ms(2);
}

static void lcd_row(uint8_t row, const char *p) {
    uint8_t n = 0;
    lcd_byte(row ? 0xC0 : 0x80, 0);
    while (p[n] && n < 16)
        lcd_byte(p[n++], 1);
    while (n++ < 16)
        lcd_byte(' ', 1);
}

static void lcd_start(void) {
    _delay_ms(50);
    for (uint8_t i = 0; i < 3; i++) {
        PORTD = (PORTD & 0x0F) | 0x30;
        pulse();
        _delay_ms(5);
    }
    PORTD = (PORTD & 0x0F) | 0x20;
    pulse();
    lcd_byte(0x28, 0);
    lcd_byte(0x0C, 0);
    lcd_byte(0x06, 0);
    lcd_byte(0x01, 0);
}

static void show_coins(void) {
    char line[17] = "Coins: ";
    itoa(coins, line + 7, 10);
    lcd_row(0, line);
}

static void show_packets(void) {
    char line[17] = "Packets: ";
    if (packets == 0) {
        lcd_row(1, "sold out");
        return;
    }
    itoa(packets, line + 9, 10);
    lcd_row(1, line);
}

/* 1 once for each press */
static uint8_t pressed(uint8_t pin, uint8_t *count) {
    if (PINC & (1 << pin)) {
        if (*count > 0)
            (*count)--;
        return 0;
    }
    if (*count == 20)
        return 0;
    *count = *count + 1;
    if (*count == 10) {
        *count = 20;
        return 1;
    }
    return 0;
}

int main(void) {
    uint8_t coin_count = 0, give_count = 0;
    DDRD = 0xF0;
    DDRB = (1 << PB0) | (1 << PB1) | (1 << PB2);
    PORTC = (1 << PC0) | (1 << PC1);
    lcd_start();
    show_coins();
    show_packets();
    for (;;) {
        if (pressed(PC0, &coin_count)) {
            if (packets > 0 && coins < MAX_COINS) {
                coins++;
                show_coins();
            }
        }
        if (pressed(PC1, &give_count)) {
            if (packets > 0 && coins >= PRICE) {
                coins -= PRICE;
                packets--;
                show_coins();
                show_packets();
                PORTB |= 1 << PB2;
                lamp_left = 1000;
            }
        }
        if (lamp_left > 0) {
            lamp_left--;
            if (lamp_left == 0)
                PORTB &= ~(1 << PB2);
        }
        _delay_ms(1);
    }
}
