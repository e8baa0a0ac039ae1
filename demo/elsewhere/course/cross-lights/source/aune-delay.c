#include <avr/io.h>
#include <util/delay.h>

#define CAR_RED    (1 << PD2)
#define CAR_AMBER  (1 << PD3)
#define CAR_GREEN  (1 << PD4)
#define WALK_RED   (1 << PD5)
#define WALK_GREEN (1 << PD6)

int main(void)
{
	DDRD = CAR_RED | CAR_AMBER | CAR_GREEN | WALK_RED | WALK_GREEN;
	PORTB = 1 << PB0;
	PORTD = CAR_GREEN | WALK_RED;
	while (1) {
		if (PINB & (1 << PB0))
			continue;
		_delay_ms(1000);
		PORTD = CAR_AMBER | WALK_RED;
		_delay_ms(1000);
		PORTD = CAR_RED | WALK_GREEN;
		_delay_ms(3000);
		PORTD = CAR_RED | WALK_RED;
		_delay_ms(1000);
		PORTD = CAR_RED | CAR_AMBER | WALK_RED;
		_delay_ms(1000);
		PORTD = CAR_GREEN | WALK_RED;
	}
}
