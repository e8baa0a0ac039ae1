/* Lamps, as most programs with setup() and loop() begin. */
void setup()
{
	pinMode(8, OUTPUT);
}

void loop()
{
	digitalWrite(8, HIGH);
	delay(500);
	digitalWrite(8, LOW);
	delay(300);
}
