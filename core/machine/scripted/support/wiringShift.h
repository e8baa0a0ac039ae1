/* Shifting bytes out and in by any pins. */
#ifndef BOARD_WIRING_SHIFT_H
#define BOARD_WIRING_SHIFT_H

#include <stdint.h>

#define LSBFIRST 0
#define MSBFIRST 1

uint8_t shiftIn(uint8_t data, uint8_t clock, uint8_t order);
void shiftOut(uint8_t data, uint8_t clock, uint8_t order, uint8_t value);

#ifndef BOARD_BOARD_H
#include "here.h"
#define shiftOut(...) (BOARD_HERE, shiftOut(__VA_ARGS__))
#endif

#endif
