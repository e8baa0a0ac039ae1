#include "KeeperLcd.h"

KeeperLcd board(8, 10, 4, 5, 6, 7);
const uint8_t boat[8] = {0x04, 0x06, 0x07, 0x04, 0x1f, 0x0e};
int level = 102;

void setup()
{
	pinMode(9, OUTPUT);
	board.start();
	board.define(1, boat);
	board.writeAt(0, 0, "Wherry Lock    \1");
}

void loop()
{
	char text[17];
	snprintf(text, sizeof text, "Level %d cm ", level);
	board.writeAt(1, 0, text);
	delay(998);
	if (level > 97)
		level--;
}
