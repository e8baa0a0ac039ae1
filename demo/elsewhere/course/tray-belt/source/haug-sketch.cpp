#include <Arduino.h>

const byte TRAY = 2, UNDO = 3, FULL = 13;

struct Key {
  byte pin;
  bool down;
  unsigned long since;
};

Key tray = {TRAY, false, 0}, undo = {UNDO, false, 0};
int trays = 0;
unsigned long litAt = 0;
bool lit = false;

bool pressed(Key &key)
{
  bool now = digitalRead(key.pin) == LOW;
  if (now == key.down) {
    key.since = millis();
    return false;
  }
  if (millis() - key.since < 15)
    return false;
  key.down = now;
  key.since = millis();
  return now;
}

void show()
{
  Serial.write(0x1B);
  Serial.write('C');
  if (trays < 1000) Serial.print(' ');
  if (trays < 100) Serial.print(' ');
  if (trays < 10) Serial.print(' ');
  Serial.print(trays);
}

void setup()
{
  pinMode(TRAY, INPUT_PULLUP);
  pinMode(UNDO, INPUT_PULLUP);
  pinMode(FULL, OUTPUT);
  Serial.begin(9600);
  delay(600);
  show();
}

void loop()
{
  if (pressed(tray)) {
    trays++;
    show();
    if (trays % 10 == 0) {
      digitalWrite(FULL, HIGH);
      lit = true;
      litAt = millis();
    }
  }
  if (pressed(undo) && trays > 0) {
    trays--;
    show();
  }
  if (lit && millis() - litAt >= 1000) {
    digitalWrite(FULL, LOW);
    lit = false;
  }
}
