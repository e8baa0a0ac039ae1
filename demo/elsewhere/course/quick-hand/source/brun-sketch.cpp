// the display: data 11, clock 13, load 10
const byte DIN = 11, CLK = 13, LOAD = 10;
const byte READY = 2, STOP = 3, LAMP = 4, BEST = 5;

unsigned long startedAt, litAt;
unsigned int record = 65535;
byte phase = 0;   // 0 at rest, 1 waits, 2 takes the time

void send(byte reg, byte value) {
  digitalWrite(LOAD, LOW);
  shiftOut(DIN, CLK, MSBFIRST, reg);
  shiftOut(DIN, CLK, MSBFIRST, value);
  digitalWrite(LOAD, HIGH);
}

void blank() {
  for (byte d = 1; d <= 8; d++) send(d, 0x0F);
}

void showTime(unsigned int hundredths) {
  blank();
  send(1, hundredths % 10);
  send(2, hundredths / 10 % 10);
  send(3, (hundredths / 100) | 0x80);
}

void dashes() {
  blank();
  for (byte d = 1; d <= 4; d++) send(d, 0x0A);
}

void setup() {
  pinMode(DIN, OUTPUT);
  pinMode(CLK, OUTPUT);
  pinMode(LOAD, OUTPUT);
  pinMode(LAMP, OUTPUT);
  pinMode(BEST, OUTPUT);
  pinMode(READY, INPUT_PULLUP);
  pinMode(STOP, INPUT_PULLUP);
  digitalWrite(LOAD, HIGH);
  send(0x0F, 0);
  send(0x09, 0xFF);
  send(0x0B, 7);
  send(0x0A, 8);
  blank();
  send(0x0C, 1);
}

void loop() {
  if (phase == 0 && digitalRead(READY) == LOW) {
    phase = 1;
    startedAt = millis();
    blank();
    digitalWrite(BEST, LOW);
  }
  if (phase == 1) {
    if (digitalRead(STOP) == LOW) {
      dashes();
      phase = 0;
    } else if (millis() - startedAt >= 1500) {
      digitalWrite(LAMP, HIGH);
      litAt = millis();
      phase = 2;
    }
  }
  if (phase == 2 && digitalRead(STOP) == LOW) {
    unsigned int taken = (millis() - litAt) / 10;
    digitalWrite(LAMP, LOW);
    showTime(taken);
    if (taken < record) {
      record = taken;
      digitalWrite(BEST, HIGH);
    }
    phase = 0;
  }
}
