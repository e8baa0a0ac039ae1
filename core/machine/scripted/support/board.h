/* What the files beside this one ask of the board; blocks are those that have passed since it was last told. */
#ifndef BOARD_BOARD_H
#define BOARD_BOARD_H

#include <stdint.h>

#define BOARD(name) __attribute__((import_module("board"), import_name(#name)))
#define UNCOUNTED __attribute__((no_sanitize("coverage")))

BOARD(spend) void board_spend(unsigned int blocks);
BOARD(sleep) void board_sleep(unsigned int blocks, uint64_t microseconds);
BOARD(drive) void board_drive(unsigned int blocks, int pin, int drive);
BOARD(level) int board_level(unsigned int blocks, int pin);
BOARD(now) uint64_t board_now(unsigned int blocks);
BOARD(pulses) void board_pulses(unsigned int blocks, int pin, unsigned int period, unsigned int high);
/* What a number means in one of the numberings, and whether the program numbers so from now on. */
BOARD(gpio) int board_gpio(int way, int number, int chosen);
BOARD(watch) void board_watch(unsigned int blocks, int pin, int edge);
BOARD(await) int board_await(unsigned int blocks, int pin, int64_t microseconds);
BOARD(two_wire) int board_two_wire(unsigned int blocks, int address, const void *out, unsigned int written, void *in,
	unsigned int read);
BOARD(exchange) void board_exchange(unsigned int blocks, int device, int mode, unsigned int hertz, void *data,
	unsigned int length);
BOARD(begin) int board_begin(unsigned int blocks, void (*function)(void *), void *argument, void *stack);
BOARD(self) void *board_self(void);
BOARD(until) void board_until(unsigned int blocks, const int *word, int value, int64_t microseconds);

unsigned int board_blocks(void);

#endif
