/* A lamp by millis(), and a button that is looked at on every pass. */
unsigned long last;
bool on;

void setup()
{
	pinMode(8, OUTPUT);
	pinMode(2, INPUT_PULLUP);
}

void loop()
{
	if (millis() - last >= 400) {
		last += 400;
		on = !on;
		digitalWrite(8, on);
	}
	if (digitalRead(2) == LOW)
		digitalWrite(8, HIGH);
}
