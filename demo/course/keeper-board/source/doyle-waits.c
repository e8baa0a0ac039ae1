/* C. Doyle: writes the changed number once a second, with waits. */
#include "lcd.h"
#include <stdio.h>

#ifndef ROW2
#define ROW2 0xc0
#endif
#ifndef FORMAT
#define FORMAT "Level %u cm "
#endif

int main(void)
{
	char line[17];

	lcd_begin();
	lcd_boat();
	lcd_command(0x80);
	lcd_text("Wherry Lock    ");
	lcd_send(0, 1);
	for (uint8_t level = 102;; level--) {
		sprintf(line, FORMAT, level);
		lcd_command(ROW2);
		lcd_text(line);
		if (level == 97)
			break;
		_delay_ms(998);
	}
	for (;;)
		;
}
