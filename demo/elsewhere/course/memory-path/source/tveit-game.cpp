// A path to remember. Oda Tveit, group 4
#include <Arduino.h>

int redLamp = 5;
int yellowLamp = 6;
int greenLamp = 7;
int redKey = 8;
int yellowKey = 9;
int greenKey = 10;
int wellLamp = 11;

int path[4] = {5, 7, 5, 6};
int points = 0;
int place = 0;

void showDigit(int n) {
  // all off
  digitalWrite(A0, LOW);
  digitalWrite(A1, LOW);
  digitalWrite(A2, LOW);
  digitalWrite(A3, LOW);
  digitalWrite(A4, LOW);
  digitalWrite(A5, LOW);
  digitalWrite(12, LOW);
  if (n == 0 || n == 2 || n == 3 || n == 5 || n == 6 || n == 7 || n == 8 || n == 9) digitalWrite(A0, HIGH);
  if (n == 0 || n == 1 || n == 2 || n == 3 || n == 4 || n == 7 || n == 8 || n == 9) digitalWrite(A1, HIGH);
  if (n != 2) digitalWrite(A2, HIGH);
  if (n == 0 || n == 2 || n == 3 || n == 5 || n == 6 || n == 8 || n == 9) digitalWrite(A3, HIGH);
  if (n == 0 || n == 2 || n == 6 || n == 8) digitalWrite(A4, HIGH);
  if (n == 0 || n == 4 || n == 5 || n == 6 || n == 8 || n == 9) digitalWrite(A5, HIGH);
  if (n == 2 || n == 3 || n == 4 || n == 5 || n == 6 || n == 8 || n == 9) digitalWrite(12, HIGH);
}

void showPath() {
  delay(1000);
  for (int i = 0; i < 4; i++) {
    digitalWrite(path[i], HIGH);
    delay(500);
    digitalWrite(path[i], LOW);
    delay(200);
  }
  place = 0;
}

void wrong() {
  for (int i = 0; i < 3; i++) {
    digitalWrite(redLamp, HIGH);
    digitalWrite(yellowLamp, HIGH);
    digitalWrite(greenLamp, HIGH);
    delay(250);
    digitalWrite(redLamp, LOW);
    digitalWrite(yellowLamp, LOW);
    digitalWrite(greenLamp, LOW);
    delay(250);
  }
  showPath();
}

void right() {
  if (points < 9) {
    points = points + 1;
  }
  showDigit(points);
  digitalWrite(wellLamp, HIGH);
  delay(1500);
  digitalWrite(wellLamp, LOW);
  showPath();
}

void pressed(int key, int lamp) {
  digitalWrite(lamp, HIGH);
  delay(30);
  while (digitalRead(key) == LOW) {
  }
  delay(30);
  digitalWrite(lamp, LOW);
  if (path[place] == lamp) {
    place = place + 1;
    if (place == 4) {
      right();
    }
  } else {
    wrong();
  }
}

void setup() {
  pinMode(redLamp, OUTPUT);
  pinMode(yellowLamp, OUTPUT);
  pinMode(greenLamp, OUTPUT);
  pinMode(wellLamp, OUTPUT);
  pinMode(redKey, INPUT_PULLUP);
  pinMode(yellowKey, INPUT_PULLUP);
  pinMode(greenKey, INPUT_PULLUP);
  pinMode(A0, OUTPUT);
  pinMode(A1, OUTPUT);
  pinMode(A2, OUTPUT);
  pinMode(A3, OUTPUT);
  pinMode(A4, OUTPUT);
  pinMode(A5, OUTPUT);
  pinMode(12, OUTPUT);
  showDigit(points);
  showPath();
}

void loop() {
  if (digitalRead(redKey) == LOW) {
    pressed(redKey, redLamp);
  }
  if (digitalRead(yellowKey) == LOW) {
    pressed(yellowKey, yellowLamp);
  }
  if (digitalRead(greenKey) == LOW) {
    pressed(greenKey, greenLamp);
  }
}
