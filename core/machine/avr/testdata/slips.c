/* One place of each kind that authors slip in; each tells what comes of it over the serial port. */
#include "host.h"

static volatile uint8_t five = 5, nine = 9, which, two, also;
static volatile uint16_t hundred = 100, thousand = 1000;
static volatile uint16_t table[] = {11, 22, 3300};

static __attribute__((noinline)) void send(uint16_t n) { printf("%u ", n); }

int main(void)
{
	begin();
	send(hundred > 99);
	send(thousand == 1000);
	send(five < nine);
	send(hundred + 7);
	send((uint8_t)(nine - five));
	send(nine >> 1);
	send((uint8_t)~five);
	send(five & 0x0c);
	GPIOR0 |= 1 << 3;
	send(GPIOR0);
	which = 1;
	send(table[which]);
	if (five == 5)
		send(1);
	else
		send(2);
	two = 2;
	also = 2;
	send(10 * two + also);
	finish();
}
