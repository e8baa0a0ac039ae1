#include <NoticeLcd.h>

NoticeLcd board;

void setup()
{
	board.start();
	board.writeAt(0, 0, "Wherry Lock");
	board.writeAt(2, 0, "Canal closed");
}

void loop()
{
	board.writeAt(3, 0, "Stoppage at lock 3");
	delay(985);
	board.writeAt(3, 0, "Use the side arm  ");
	delay(985);
}
