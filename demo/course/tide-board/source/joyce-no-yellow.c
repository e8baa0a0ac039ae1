/* E. Joyce: yellow is green. */
#include "tide.h"

static const uint8_t up[] = {0x04, 0x0e, 0x15, 0x04, 0x04, 0x04, 0x04, 0x00};
static const uint8_t down[] = {0x04, 0x04, 0x04, 0x04, 0x15, 0x0e, 0x04, 0x00};

int main(void)
{
	uint16_t was = 0;
	char arrow = ' ', text[17];

	DDRD |= RED | GREEN;
	DDRB |= _BV(3);
	gauge_begin();
	lcd_begin(1);
	lcd_define(1, up);
	lcd_define(2, down);
	lcd_command(0xc0);
	lcd_text("Code:");
	for (;;) {
		uint16_t cm = gauge();

		if (was && cm >= was + 50)
			arrow = 1;
		if (was >= cm + 50)
			arrow = 2;
		if (cm != was) {
			sprintf(text, "Tide %3u cm %c", cm, arrow);
			lcd_command(0x80);
			lcd_text(text);
			lcd_command(0xc6);
		}
		was = cm;
		PORTD &= ~(RED | GREEN);
		if (cm >= 300)
			PORTD |= RED;
		else if (cm >= 200)
			PORTD |= GREEN;
		else
			PORTD |= GREEN;
		_delay_ms(50);
	}
}
