#include <avr/io.h>
#include <stdint.h>
#include <util/delay.h>

#define ADDRESS   0x27
#define RS        0x01
#define ENABLE    0x04
#define BACKLIGHT 0x08

static const char *const items[] = {"Water", "Light", "Air"};

static void twi_wait(void)
{
	while (!(TWCR & _BV(TWINT)))
		;
}

static void expander(uint8_t value)
{
	TWCR = _BV(TWINT) | _BV(TWSTA) | _BV(TWEN);
	twi_wait();
	TWDR = ADDRESS << 1;
	TWCR = _BV(TWINT) | _BV(TWEN);
	twi_wait();
	TWDR = value;
	TWCR = _BV(TWINT) | _BV(TWEN);
	twi_wait();
	TWCR = _BV(TWINT) | _BV(TWSTO) | _BV(TWEN);
	while (TWCR & _BV(TWSTO))
		;
}

static void nibble(uint8_t n, uint8_t rs)
{
	uint8_t v = (n << 4) | rs | BACKLIGHT;
	expander(v | ENABLE);
	expander(v);
	_delay_us(40);
}

static void command(uint8_t c)
{
	nibble(c >> 4, 0);
	nibble(c & 0x0f, 0);
	_delay_ms(2);
}

static uint8_t text(const char *s)
{
	uint8_t n = 0;
	for (; *s; s++, n++) {
		nibble((uint8_t)*s >> 4, RS);
		nibble((uint8_t)*s & 0x0f, RS);
	}
	return n;
}

static void draw(uint8_t item, uint8_t taken)
{
	command(0xc0);
	uint8_t n = text(">");
	n += text(items[item]);
	if (taken)
		n += text(" ok");
	while (n++ < 16)
		text(" ");
}

static uint8_t pressed(uint8_t pin)
{
	if (PIND & _BV(pin))
		return 0;
	_delay_ms(15);
	if (PIND & _BV(pin))
		return 0;
	return 1;
}

static void release(uint8_t pin)
{
	while (!(PIND & _BV(pin)))
		;
	_delay_ms(15);
}

int main(void)
{
	uint8_t item = 0;

	PORTD |= _BV(PD2) | _BV(PD3);
	TWBR = 72;
	_delay_ms(50);
	nibble(3, 0);
	_delay_ms(5);
	nibble(3, 0);
	_delay_ms(1);
	nibble(3, 0);
	_delay_ms(1);
	nibble(2, 0);
	command(0x28);
	command(0x0c);
	command(0x06);
	command(0x01);
	command(0x80);
	text("Vinery");
	draw(item, 0);
	for (;;) {
		if (pressed(PD2)) {
			item = (item + 1) % 3;
			draw(item, 0);
			release(PD2);
		}
		if (pressed(PD3)) {
			draw(item, 1);
			release(PD3);
		}
	}
}
