const int lampPin = 4;
const int keyPin = 2;
const int segments[7] = {5, 6, 7, 8, 9, 10, 11};

// a to g of the figures 1, 2 and 3
const byte figures[4][7] = {
  {0, 0, 0, 0, 0, 0, 0},
  {0, 1, 1, 0, 0, 0, 0},
  {1, 1, 0, 1, 1, 0, 1},
  {1, 1, 1, 1, 0, 0, 1},
};

const float darkBelow = 1.5;
const float brightAbove = 2.0;

enum State { DAY, COUNTING, NIGHT };
State state = DAY;
unsigned long since;
bool lampOn = false;
int keyWas = HIGH;
unsigned long keyAt = 0;

void show(int n) {
  for (int i = 0; i < 7; i++) {
    digitalWrite(segments[i], figures[n][i]);
  }
}

void setLamp(bool on) {
  lampOn = on;
  digitalWrite(lampPin, on ? HIGH : LOW);
}

void setup() {
  pinMode(lampPin, OUTPUT);
  pinMode(keyPin, INPUT_PULLUP);
  for (int i = 0; i < 7; i++) {
    pinMode(segments[i], OUTPUT);
  }
}

void loop() {
  float volts = analogRead(A0) * 5.0 / 1023;

  switch (state) {
    case DAY:
      if (volts < darkBelow) {
        state = COUNTING;
        since = millis();
        show(3);
      }
      break;
    case COUNTING:
      if (volts > brightAbove) {
        state = DAY;
        setLamp(false);
        show(0);
      } else {
        unsigned long gone = (millis() - since) / 1000;
        if (gone >= 3) {
          state = NIGHT;
          setLamp(true);
          show(0);
        } else {
          show(3 - gone);
        }
      }
      break;
    case NIGHT:
      if (volts > brightAbove) {
        state = DAY;
        setLamp(false);
      }
      break;
  }

  int key = digitalRead(keyPin);
  if (key != keyWas && millis() - keyAt > 20) {
    keyAt = millis();
    keyWas = key;
    if (key == LOW) {
      setLamp(!lampOn);
    }
  }
}
