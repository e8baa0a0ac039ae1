/* An LCD that is written on every pass, with a delay. */
#include <KeeperLcd.h>

KeeperLcd board(8, 10, 4, 5, 6, 7);
int level;

void setup()
{
	pinMode(9, OUTPUT);
	board.start();
}

void loop()
{
	char text[17];
	snprintf(text, sizeof text, "Level %4d cm", level++);
	board.writeAt(0, 0, "Wherry Lock");
	board.writeAt(1, 0, text);
	delay(200);
}
