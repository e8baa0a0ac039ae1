/* Four digits, each for 3 ms by micros(). */
const byte font[10] = {0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f};
unsigned long last;
unsigned int count = 1234;
byte digit;

void setup()
{
	DDRD = 0x7f;
	DDRB = 0x0f;
}

void loop()
{
	if (micros() - last < 3000)
		return;
	last += 3000;
	digit = (digit + 1) & 3;
	unsigned int n = count;
	for (byte i = digit; i < 3; i++)
		n /= 10;
	PORTB = 0;
	PORTD = font[n % 10];
	PORTB = 1 << digit;
}
