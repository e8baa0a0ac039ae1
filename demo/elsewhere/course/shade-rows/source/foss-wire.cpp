#include <Arduino.h>
#include <Wire.h>

const byte ADDRESS = 0x27;
const byte LIGHT = 8, ENABLE = 4, DATA = 1;

void put(byte b)
{
  Wire.beginTransmission(ADDRESS);
  Wire.write(b | LIGHT);
  Wire.endTransmission();
}

void half(byte b, byte mode)
{
  put((b & 0xF0) | mode | ENABLE);
  delayMicroseconds(1);
  put((b & 0xF0) | mode);
  delayMicroseconds(50);
}

void send(byte b, byte mode)
{
  half(b, mode);
  half(b << 4, mode);
}

void text(const char *s)
{
  while (*s)
    send(*s++, DATA);
}

// the first cell of each row
const byte ROW[4] = {0x00, 0x40, 0x14, 0x54};

void go(byte row, byte column)
{
  send(0x80 | (ROW[row] + column), 0);
}

void setup()
{
  Wire.begin();
  delay(50);
  half(0x30, 0);
  delay(5);
  half(0x30, 0);
  delayMicroseconds(150);
  half(0x30, 0);
  half(0x20, 0);
  send(0x28, 0);
  send(0x0C, 0);
  send(0x01, 0);
  delay(2);
  send(0x06, 0);
}

void loop()
{
  long raw = analogRead(A1);
  int percent = (raw * 100 + 511) / 1023;

  go(0, 0);
  text("SHADE ");
  if (percent < 100) text(" ");
  if (percent < 10) text(" ");
  char digits[8];
  itoa(percent, digits, 10);
  text(digits);
  text(" %");

  go(1, 0);
  for (int i = 1; i <= 20; i++)
    text(percent >= i * 5 ? "#" : " ");

  go(3, 0);
  if (percent < 10)
    text("OPEN  ");
  else if (percent >= 90)
    text("CLOSED");
  else
    text("PARTLY");
  delay(100);
}
