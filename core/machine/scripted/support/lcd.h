/* Character displays with an HD44780 controller on any pins, by the documented calls of the library whose header has this
   name. */
#ifndef BOARD_LCD_H
#define BOARD_LCD_H

#define MAX_LCDS 8

/* The number of a display of so many rows and columns on 4 or 8 data lines; -1 where it cannot be. */
int lcdInit(int rows, int columns, int lines, int rs, int strobe, int d0, int d1, int d2, int d3, int d4, int d5, int d6, int d7);
void lcdHome(int lcd);
void lcdClear(int lcd);
void lcdDisplay(int lcd, int on);
void lcdCursor(int lcd, int on);
void lcdCursorBlink(int lcd, int on);
void lcdSendCommand(int lcd, unsigned char command);
void lcdPosition(int lcd, int x, int y);
void lcdCharDef(int lcd, int index, unsigned char rows[8]);
void lcdPutchar(int lcd, unsigned char data);
void lcdPuts(int lcd, const char *text);
void lcdPrintf(int lcd, const char *format, ...);

#ifndef BOARD_BOARD_H
#include "here.h"
#define lcdInit(...) (BOARD_HERE, lcdInit(__VA_ARGS__))
#define lcdHome(...) (BOARD_HERE, lcdHome(__VA_ARGS__))
#define lcdClear(...) (BOARD_HERE, lcdClear(__VA_ARGS__))
#define lcdDisplay(...) (BOARD_HERE, lcdDisplay(__VA_ARGS__))
#define lcdCursor(...) (BOARD_HERE, lcdCursor(__VA_ARGS__))
#define lcdCursorBlink(...) (BOARD_HERE, lcdCursorBlink(__VA_ARGS__))
#define lcdSendCommand(...) (BOARD_HERE, lcdSendCommand(__VA_ARGS__))
#define lcdPosition(...) (BOARD_HERE, lcdPosition(__VA_ARGS__))
#define lcdCharDef(...) (BOARD_HERE, lcdCharDef(__VA_ARGS__))
#define lcdPutchar(...) (BOARD_HERE, lcdPutchar(__VA_ARGS__))
#define lcdPuts(...) (BOARD_HERE, lcdPuts(__VA_ARGS__))
#define lcdPrintf(...) (BOARD_HERE, lcdPrintf(__VA_ARGS__))
#endif

#endif
