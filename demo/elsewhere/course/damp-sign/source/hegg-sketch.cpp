const int RS = 2, EN = 3, PUMP = 8, HORN = 9;
const int DATA[4] = {4, 5, 6, 7};

bool pumping = false;
bool sounding = false;

void half(byte b) {
  for (int i = 0; i < 4; i++) {
    digitalWrite(DATA[i], (b >> i) & 1);
  }
  digitalWrite(EN, HIGH);
  delayMicroseconds(2);
  digitalWrite(EN, LOW);
  delayMicroseconds(60);
}

void lcd(byte b, bool text) {
  digitalWrite(RS, text);
  half(b >> 4);
  half(b & 15);
}

void print(byte row, const char *s) {
  lcd(row == 0 ? 0x80 : 0xC0, false);
  byte n = 0;
  while (*s) {
    lcd(*s++, true);
    n++;
  }
  while (n++ < 16) lcd(' ', true);
}

void setup() {
  for (int pin = 2; pin <= 9; pin++) pinMode(pin, OUTPUT);
  delay(50);
  half(3);
  delay(5);
  half(3);
  delay(1);
  half(3);
  half(2);
  lcd(0x28, false);
  lcd(0x0C, false);
  lcd(0x01, false);
  delay(2);
}

void loop() {
  long sum = 0;
  for (int i = 0; i < 8; i++) {
    sum += analogRead(A0);
  }
  // 4 V is 818 of 1023
  int percent = sum * 100 / (8 * 818L);
  if (percent > 100) percent = 100;

  char line[17];
  sprintf(line, "Damp %4d %%", percent);
  print(0, line);

  if (percent < 30) {
    print(1, "DRY");
    pumping = true;
  } else if (percent <= 70) {
    print(1, "FINE");
  } else {
    print(1, "WET");
  }
  if (percent >= 50) pumping = false;
  digitalWrite(PUMP, pumping);

  bool wet = percent > 70;
  if (wet && !sounding) tone(HORN, 1000);
  if (!wet && sounding) noTone(HORN);
  sounding = wet;
  delay(100);
}
