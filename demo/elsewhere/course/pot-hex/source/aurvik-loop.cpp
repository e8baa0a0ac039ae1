// Pots in hexadecimal, H. Aurvik
#include <Arduino.h>

const int firstSegment = 2;
const int leftDigit = 12;
const int rightDigit = 13;
const int oneKey = 9;
const int rowKey = 10;
const int noneKey = 11;
const int manyLamp = A0;
const int wrapLamp = A1;

// a is the lowest bit
const byte shapes[16] = {
  0b0111111, 0b0000110, 0b1011011, 0b1001111,
  0b1100110, 0b1101101, 0b1111101, 0b0000111,
  0b1111111, 0b1101111, 0b1110111, 0b1111100,
  0b0111001, 0b1011110, 0b1111001, 0b1110001
};

int pots = 0;
bool oneWas = false;
bool rowWas = false;
unsigned long wrapSince = 0;
bool wrapOn = false;

void show(int digit, int value) {
  digitalWrite(leftDigit, HIGH);
  digitalWrite(rightDigit, HIGH);
  for (int s = 0; s < 7; s++) {
    digitalWrite(firstSegment + s, bitRead(shapes[value], s));
  }
  digitalWrite(digit, LOW);
  delay(4);
}

void add(int n) {
  pots = pots + n;
  if (pots > 255) {
    pots = pots - 256;
    wrapOn = true;
    wrapSince = millis();
  }
}

void setup() {
  for (int p = 2; p <= 8; p++) {
    pinMode(p, OUTPUT);
  }
  pinMode(leftDigit, OUTPUT);
  pinMode(rightDigit, OUTPUT);
  pinMode(manyLamp, OUTPUT);
  pinMode(wrapLamp, OUTPUT);
  pinMode(oneKey, INPUT_PULLUP);
  pinMode(rowKey, INPUT_PULLUP);
  pinMode(noneKey, INPUT_PULLUP);
}

void loop() {
  show(leftDigit, pots / 16);
  show(rightDigit, pots % 16);

  bool one = digitalRead(oneKey) == LOW;
  if (one && !oneWas) {
    add(1);
  }
  oneWas = one;

  bool row = digitalRead(rowKey) == LOW;
  if (row && !rowWas) {
    add(16);
  }
  rowWas = row;

  if (digitalRead(noneKey) == LOW) {
    pots = 0;
  }

  if (pots >= 32) {
    digitalWrite(manyLamp, HIGH);
  } else {
    digitalWrite(manyLamp, LOW);
  }

  if (wrapOn && millis() - wrapSince >= 1000) {
    wrapOn = false;
  }
  digitalWrite(wrapLamp, wrapOn);
}
