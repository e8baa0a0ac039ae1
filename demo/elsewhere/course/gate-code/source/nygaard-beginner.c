#include <avr/io.h>
#include <util/delay.h>

char entered[4];
int digits = 0;

void enable()
{
	PORTB |= 0x02;
	_delay_us(10);
	PORTB &= ~0x02;
	_delay_us(100);
}

void lcd_half(unsigned char half)
{
	PORTB &= 0x03;
	PORTB |= half << 2;
	enable();
}

void lcd_command(unsigned char c)
{
	PORTB &= ~0x01;
	lcd_half(c >> 4);
	lcd_half(c & 0x0f);
	_delay_ms(2);
}

void lcd_char(unsigned char c)
{
	PORTB |= 0x01;
	lcd_half(c >> 4);
	lcd_half(c & 0x0f);
}

void lcd_print(char *s)
{
	int i = 0;
	while (s[i] != 0) {
		lcd_char(s[i]);
		i++;
	}
}

void second_row(char *s)
{
	lcd_command(0xc0);
	lcd_print("                ");
	lcd_command(0xc0);
	lcd_print(s);
}

char read_key()
{
	PORTC = 0x0e;
	_delay_us(50);
	if (!(PIND & 0x04)) return '1';
	if (!(PIND & 0x08)) return '2';
	if (!(PIND & 0x10)) return '3';
	PORTC = 0x0d;
	_delay_us(50);
	if (!(PIND & 0x04)) return '4';
	if (!(PIND & 0x08)) return '5';
	if (!(PIND & 0x10)) return '6';
	PORTC = 0x0b;
	_delay_us(50);
	if (!(PIND & 0x04)) return '7';
	if (!(PIND & 0x08)) return '8';
	if (!(PIND & 0x10)) return '9';
	PORTC = 0x07;
	_delay_us(50);
	if (!(PIND & 0x04)) return '*';
	if (!(PIND & 0x08)) return '0';
	if (!(PIND & 0x10)) return '#';
	return 0;
}

void check()
{
	if (entered[0] == '2' && entered[1] == '5' && entered[2] == '8' && entered[3] == '0') {
		PORTD |= 0x80;
		second_row("open");
	} else {
		second_row("wrong");
	}
	_delay_ms(1500);
	PORTD &= ~0x80;
	second_row("");
	digits = 0;
}

int main()
{
	char key;

	DDRB = 0x3f;
	DDRC = 0x0f;
	DDRD = 0x80;
	PORTD = 0x3c;
	_delay_ms(50);
	lcd_half(3);
	_delay_ms(5);
	lcd_half(3);
	_delay_ms(5);
	lcd_half(3);
	_delay_ms(5);
	lcd_half(2);
	lcd_command(0x28);
	lcd_command(0x0c);
	lcd_command(0x01);
	lcd_print("Code?");
	while (1) {
		key = read_key();
		if (key != 0) {
			_delay_ms(20);
			if (key == '#') {
				digits = 0;
				second_row("");
			} else if (key != '*') {
				entered[digits] = key;
				lcd_command(0xc0 + digits);
				lcd_char('*');
				digits++;
			}
			while (read_key() != 0);
			_delay_ms(20);
			if (digits == 4)
				check();
		}
	}
}
