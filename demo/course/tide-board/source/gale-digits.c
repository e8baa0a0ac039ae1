/* I. Gale: writes digit by digit, each pass, and keeps the cursor where it is asked for. */
#include "tide.h"

static const uint8_t arrows[2][8] = {{0x04, 0x0e, 0x15, 0x04, 0x04, 0x04, 0x04, 0x00}, {0x04, 0x04, 0x04, 0x04, 0x15, 0x0e, 0x04, 0x00}};

static void at(uint8_t column, char c)
{
	lcd_command(0x80 | column);
	lcd_send(c, 1);
}

int main(void)
{
	uint16_t before = 0;
	char arrow = ' ';

	gauge_begin();
	DDRD = RED | GREEN;
	lcd_begin(0);
	for (uint8_t i = 0; i < 2; i++)
		lcd_define(i, arrows[i]);
	lcd_command(0x80);
	lcd_text("Tide     cm");
	lcd_command(0xc0);
	lcd_text("Code:");
	lcd_command(0x0d);
	for (;;) {
		uint16_t cm = gauge();

		if (before && cm > before && cm - before >= 50)
			arrow = 0;
		else if (before > cm && before - cm >= 50)
			arrow = 1;
		if (before != cm) {
			at(5, cm >= 100 ? '0' + cm / 100 : ' ');
			at(6, '0' + cm / 10 % 10);
			at(7, '0' + cm % 10);
			at(12, arrow);
			before = cm;
		}
		lcd_command(0xc6);
		switch (cm / 100) {
		case 0:
		case 1:
			PORTD = (PORTD & ~RED) | GREEN;
			break;
		case 2:
			PORTD |= RED | GREEN;
			break;
		default:
			PORTD = (PORTD & ~GREEN) | RED;
		}
		_delay_ms(20);
	}
}
