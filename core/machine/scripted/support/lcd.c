/* Character displays; commands and times of the HD44780U data sheet (Hitachi ADE-207-272). */
#include "board.h"
#include "lcd.h"
#include "wiringPi.h"
#include <stdarg.h>
#include <stdio.h>

static struct {
	int rows, columns, lines, rs, strobe, data[8], x, y, control;
} displays[MAX_LCDS];
static int many;

static const int starts[] = {0, 0x40, 20, 0x54};

enum { DISPLAY = 4, CURSOR = 2, BLINK = 1 };

UNCOUNTED static void strobe(int pin)
{
	digitalWrite(pin, HIGH);
	delayMicroseconds(50);
	digitalWrite(pin, LOW);
	delayMicroseconds(50);
}

UNCOUNTED static void put(int lcd, int value, int lines)
{
	for (int i = 0; i < lines; i++)
		digitalWrite(displays[lcd].data[i], value >> i & 1);
	strobe(displays[lcd].strobe);
}

UNCOUNTED static void send(int lcd, int value, int rs)
{
	digitalWrite(displays[lcd].rs, rs);
	if (displays[lcd].lines == 4) {
		put(lcd, value >> 4, 4);
		put(lcd, value, 4);
	} else
		put(lcd, value, 8);
}

UNCOUNTED static int none(int lcd) { return lcd < 0 || lcd >= many; }

UNCOUNTED void lcdSendCommand(int lcd, unsigned char command)
{
	if (none(lcd))
		return;
	send(lcd, command, 0);
	delay(2);
}

UNCOUNTED static void control(int lcd, int bit, int on)
{
	if (none(lcd))
		return;
	displays[lcd].control = on ? displays[lcd].control | bit : displays[lcd].control & ~bit;
	lcdSendCommand(lcd, 8 | displays[lcd].control);
}

UNCOUNTED int lcdInit(int rows, int columns, int lines, int rs, int strobe, int d0, int d1, int d2, int d3, int d4, int d5,
	int d6, int d7)
{
	int data[8] = {d0, d1, d2, d3, d4, d5, d6, d7}, lcd = many;
	if (many == MAX_LCDS || (lines != 4 && lines != 8) || rows < 1 || rows > 4 || columns < 1 || columns > 20)
		return -1;
	many++;
	displays[lcd].rows = rows;
	displays[lcd].columns = columns;
	displays[lcd].lines = lines;
	displays[lcd].rs = rs;
	displays[lcd].strobe = strobe;
	digitalWrite(rs, LOW);
	pinMode(rs, OUTPUT);
	digitalWrite(strobe, LOW);
	pinMode(strobe, OUTPUT);
	for (int i = 0; i < lines; i++) {
		displays[lcd].data[i] = data[i];
		digitalWrite(data[i], LOW);
		pinMode(data[i], OUTPUT);
	}
	delay(35);
	for (int i = 0; i < 3; i++) {
		put(lcd, lines == 4 ? 3 : 0x30, lines);
		delay(35);
	}
	if (lines == 4) {
		put(lcd, 2, 4);
		delay(35);
	}
	lcdSendCommand(lcd, 0x20 | (lines == 8) << 4 | (rows > 1) << 3);
	lcdDisplay(lcd, 1);
	lcdCursor(lcd, 0);
	lcdCursorBlink(lcd, 0);
	lcdClear(lcd);
	lcdSendCommand(lcd, 0x06);
	return lcd;
}

UNCOUNTED void lcdHome(int lcd)
{
	lcdSendCommand(lcd, 2);
	if (!none(lcd))
		displays[lcd].x = displays[lcd].y = 0;
	delay(5);
}

UNCOUNTED void lcdClear(int lcd)
{
	lcdSendCommand(lcd, 1);
	lcdHome(lcd);
}

UNCOUNTED void lcdDisplay(int lcd, int on) { control(lcd, DISPLAY, on); }
UNCOUNTED void lcdCursor(int lcd, int on) { control(lcd, CURSOR, on); }
UNCOUNTED void lcdCursorBlink(int lcd, int on) { control(lcd, BLINK, on); }

UNCOUNTED void lcdPosition(int lcd, int x, int y)
{
	if (none(lcd) || x < 0 || x >= displays[lcd].columns || y < 0 || y >= displays[lcd].rows)
		return;
	displays[lcd].x = x;
	displays[lcd].y = y;
	lcdSendCommand(lcd, 0x80 | (starts[y] + x));
}

UNCOUNTED void lcdCharDef(int lcd, int index, unsigned char rows[8])
{
	lcdSendCommand(lcd, 0x40 | (index & 7) << 3);
	for (int i = 0; i < 8 && !none(lcd); i++)
		send(lcd, rows[i], 1);
}

UNCOUNTED void lcdPutchar(int lcd, unsigned char data)
{
	if (none(lcd))
		return;
	send(lcd, data, 1);
	if (++displays[lcd].x == displays[lcd].columns) {
		int y = displays[lcd].y + 1;
		lcdPosition(lcd, 0, y < displays[lcd].rows ? y : 0);
	}
}

UNCOUNTED void lcdPuts(int lcd, const char *text)
{
	while (*text)
		lcdPutchar(lcd, *text++);
}

UNCOUNTED void lcdPrintf(int lcd, const char *format, ...)
{
	char text[1024];
	va_list arguments;
	va_start(arguments, format);
	vsnprintf(text, sizeof text, format, arguments);
	va_end(arguments);
	lcdPuts(lcd, text);
}
