/* What stands between a program and its board. Time passes by the basic blocks that the compiler counts. */
#include "board.h"
#include "here.h"
#include "wiringPi.h"
#include "softPwm.h"
#include "softTone.h"
#include <stdio.h>
#include <stdlib.h>

/* Blocks that have passed since the board was told, and what it says of inputs: they stay so for some blocks to come. */
static unsigned int counted;
struct board_view board_now_known;

__attribute__((export_name("board_view"))) UNCOUNTED void *board_view(void) { return &board_now_known; }

/* How often in a row the board was told of nothing but blocks. A program that only computes, for a tenth of a second and
   more, gets the processor less often. */
static unsigned int computing;

enum { EACH = 1000, LONG = 1000, SLOWER = 10 };

UNCOUNTED unsigned int board_blocks(void)
{
	unsigned int n = counted;
	counted = computing = 0;
	return n;
}

UNCOUNTED void __sanitizer_cov_trace_pc(void)
{
	if (++counted < EACH)
		return;
	unsigned int long_since = computing++ >= LONG, so_far = computing;
	board_spend(board_blocks() * (long_since ? SLOWER : 1));
	computing = so_far;
}

/* What a question costs, in blocks: what a pin is at, or the time. A program that has only asked for a while, and was
   answered the same, gets the processor less often. */
enum { READ = 5, SELDOM = 200, A_WHILE = 20000 };

static unsigned int questions; /* since anything else */
static uint64_t answered;

UNCOUNTED static unsigned int question(void)
{
	if (answered != board_now_known.levels) {
		answered = board_now_known.levels;
		questions = 0;
	}
	return questions < A_WHILE ? questions++, READ : SELDOM;
}

enum { OWN, GPIO, HEADER };
static int numbers = -1, modes[28], pulls[28], values[28];
static unsigned int range = 1024, divisor = 32;
static void (*handlers[28])(void);
static int soft[28];

/* What numbers mean, once a numbering is chosen. */
static signed char gpios[64];

UNCOUNTED static int number(int way)
{
	numbers = way;
	for (int i = 0; i < 64; i++)
		gpios[i] = board_gpio(way, i, 1);
	return 0;
}

UNCOUNTED static int gpio(int pin)
{
	if (numbers < 0) {
		fprintf(stderr, "a pin is used before wiringPiSetup\n");
		exit(1);
	}
	return pin >= 0 && pin < 64 ? gpios[pin] : -1;
}

UNCOUNTED int wpiPinToGpio(int pin) { return board_gpio(OWN, pin, 0); }
UNCOUNTED int physPinToGpio(int pin) { return board_gpio(HEADER, pin, 0); }

UNCOUNTED int wiringPiSetup(void) { return number(OWN); }
UNCOUNTED int wiringPiSetupGpio(void) { return number(GPIO); }
UNCOUNTED int wiringPiSetupPhys(void) { return number(HEADER); }
UNCOUNTED int wiringPiSetupSys(void) { return number(GPIO); }

UNCOUNTED static void show(int pin)
{
	questions = 0;
	if (modes[pin] == OUTPUT)
		board_drive(board_blocks(), pin, values[pin]);
	else
		board_drive(board_blocks(), pin, pulls[pin] == PUD_UP ? 'u' : pulls[pin] == PUD_DOWN ? 'd' : 'z');
}

UNCOUNTED void pinMode(int number, int mode)
{
	int pin = gpio(number);
	if (pin < 0)
		return;
	board_pulses(board_blocks(), pin, 0, 0);
	modes[pin] = mode == PWM_OUTPUT ? PWM_OUTPUT : mode == OUTPUT ? OUTPUT : INPUT;
	if (mode != PWM_OUTPUT)
		show(pin);
}

UNCOUNTED void pullUpDnControl(int number, int pull)
{
	int pin = gpio(number);
	if (pin < 0)
		return;
	pulls[pin] = pull;
	if (modes[pin] == INPUT)
		show(pin);
}

UNCOUNTED void digitalWrite(int number, int value)
{
	int pin = gpio(number);
	if (pin < 0)
		return;
	values[pin] = value != 0;
	if (modes[pin] == OUTPUT)
		show(pin);
}

UNCOUNTED void digitalWriteByte(int value)
{
	for (int i = 0; i < 8; i++)
		digitalWrite(i, value >> i & 1);
}

UNCOUNTED int digitalRead(int number)
{
	int pin = gpio(number);
	if (pin < 0)
		return 0;
	if (modes[pin] == OUTPUT)
		return values[pin];
	counted += question();
	return counted < board_now_known.left ? board_now_known.levels >> pin & 1 : board_level(board_blocks(), pin);
}

/* The clock of pulses is 19.2 MHz. */
UNCOUNTED void pwmWrite(int number, int value)
{
	int pin = gpio(number);
	if (pin < 0 || modes[pin] != PWM_OUTPUT)
		return;
	uint64_t step = (uint64_t)divisor * 10000 / 192; /* ns */
	board_pulses(board_blocks(), pin, range * step, (value < 0 ? 0 : value) * step);
}

UNCOUNTED void pwmSetMode(int mode) { (void)mode; }
UNCOUNTED void pwmSetRange(unsigned int r) { if (r) range = r; }
UNCOUNTED void pwmSetClock(int d) { if (d > 0) divisor = d; }

UNCOUNTED int softPwmCreate(int number, int value, int r)
{
	int pin = gpio(number);
	if (pin < 0 || r <= 0)
		return -1;
	modes[pin] = OUTPUT;
	soft[pin] = r;
	softPwmWrite(number, value);
	return 0;
}

UNCOUNTED void softPwmWrite(int number, int value)
{
	int pin = gpio(number);
	if (pin < 0 || !soft[pin])
		return;
	if (value < 0)
		value = 0;
	board_pulses(board_blocks(), pin, soft[pin] * 100000u, (value > soft[pin] ? soft[pin] : value) * 100000u);
}

UNCOUNTED void softPwmStop(int number)
{
	int pin = gpio(number);
	if (pin < 0)
		return;
	soft[pin] = 0;
	board_pulses(board_blocks(), pin, 0, 0);
	digitalWrite(number, 0);
}

UNCOUNTED int softToneCreate(int number)
{
	int pin = gpio(number);
	if (pin < 0)
		return -1;
	pinMode(number, OUTPUT);
	return 0;
}

UNCOUNTED void softToneWrite(int number, int frequency)
{
	int pin = gpio(number);
	if (pin < 0)
		return;
	if (frequency > 0)
		board_pulses(board_blocks(), pin, 1000000000u / frequency, 500000000u / frequency);
	else
		softToneStop(number);
}

UNCOUNTED void softToneStop(int number)
{
	int pin = gpio(number);
	if (pin < 0)
		return;
	board_pulses(board_blocks(), pin, 0, 0);
	digitalWrite(number, 0);
}

UNCOUNTED static void rest(uint64_t us)
{
	questions = 0;
	board_sleep(board_blocks(), us);
}

UNCOUNTED void delay(unsigned int ms) { rest((uint64_t)ms * 1000); }
UNCOUNTED void delayMicroseconds(unsigned int us) { rest(us); }
UNCOUNTED static uint64_t now(void)
{
	counted += question();
	return board_now(board_blocks());
}

UNCOUNTED unsigned int millis(void) { return now() / 1000; }
UNCOUNTED unsigned int micros(void) { return now(); }

UNCOUNTED int wiringPiISR(int number, int edge, void (*function)(void))
{
	int pin = gpio(number);
	if (pin < 0)
		return -1;
	handlers[pin] = function;
	board_watch(board_blocks(), pin, edge);
	return 0;
}

UNCOUNTED int waitForInterrupt(int number, int ms)
{
	int pin = gpio(number);
	return pin < 0 ? -1 : board_await(board_blocks(), pin, ms < 0 ? -1 : (int64_t)ms * 1000);
}

/* The board calls it when an edge has come. */
__attribute__((export_name("board_interrupt"))) UNCOUNTED void board_interrupt(int pin)
{
	if (pin >= 0 && pin < 28 && handlers[pin])
		handlers[pin]();
}

/* The board calls it before it waits for what is typed. */
__attribute__((export_name("board_flush"))) UNCOUNTED void board_flush(void) { fflush(stdout); }

/* The console is a terminal: what is printed is shown line by line. */
__attribute__((constructor)) UNCOUNTED static void line_by_line(void) { setvbuf(stdout, 0, _IOLBF, BUFSIZ); }
