/* One place of each kind that authors slip in; each tells what comes of it over the serial port. */
#include "../../avr/testdata/host.h"

static volatile uint32_t five = 5, nine = 9, ten = 10, hundred = 100, million = 1000000, bits;
static const volatile uint8_t fixed[] = {11, 22, 33};
static volatile uint16_t copied[] = {44, 55};

static __attribute__((noinline)) void send(uint32_t n) { printf("%u\n", (unsigned)n); }

int main(void)
{
	begin();
	send(hundred > 99);
	send(million == 1000000);
	if (five < nine)
		send(1);
	else
		send(0);
	send(hundred + 7);
	send(nine - five);
	send(nine >> 1);
	send(~five & 15);
	bits = 8;
	bits |= ten;
	send(bits);
	send(fixed[1]);
	send(copied[1]);
	if (five == 5)
		send(1);
	else
		send(2);
	finish();
}
