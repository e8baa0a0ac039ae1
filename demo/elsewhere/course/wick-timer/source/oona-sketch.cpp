#include <Arduino.h>

// candle timer -- Oona

const byte seg[] = {2, 3, 4, 5, 6, 7, 8};
const byte tensPin = A0, onesPin = A1;
const byte moreKey = A2, goKey = A3;
const byte bell = 9, lamp = 10;

const byte shapes[] = {0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F};

int left = 0;
bool running = false;
unsigned long second;

struct Key {
  byte pin;
  bool down;
  unsigned long since;
};
Key more = {moreKey, false, 0};
Key go = {goKey, false, 0};

bool pressed(Key &k) {
  bool is = digitalRead(k.pin) == LOW;
  if (is != k.down && millis() - k.since > 15) {
    k.down = is;
    k.since = millis();
    return is;
  }
  return false;
}

void shape(byte n) {
  for (byte i = 0; i < 7; i++)
    digitalWrite(seg[i], bitRead(shapes[n], i));
}

void refresh() {
  shape(left / 10);
  digitalWrite(tensPin, LOW);
  delay(3);
  digitalWrite(tensPin, HIGH);
  shape(left % 10);
  digitalWrite(onesPin, LOW);
  delay(3);
  digitalWrite(onesPin, HIGH);
}

void setup() {
  for (byte i = 0; i < 7; i++)
    pinMode(seg[i], OUTPUT);
  pinMode(tensPin, OUTPUT);
  pinMode(onesPin, OUTPUT);
  digitalWrite(tensPin, HIGH);
  digitalWrite(onesPin, HIGH);
  pinMode(bell, OUTPUT);
  pinMode(lamp, OUTPUT);
  pinMode(moreKey, INPUT_PULLUP);
  pinMode(goKey, INPUT_PULLUP);
}

void loop() {
  refresh();
  if (pressed(more) && !running) {
    left += 5;
    if (left > 60)
      left = 60;
  }
  if (pressed(go)) {
    if (running) {
      running = false;
    } else if (left > 0) {
      running = true;
      second = millis();
    }
  }
  if (running && millis() - second >= 1000) {
    second += 1000;
    left--;
    if (left == 0) {
      running = false;
      tone(bell, 2000, 800);
    }
  }
  digitalWrite(lamp, running);
}
