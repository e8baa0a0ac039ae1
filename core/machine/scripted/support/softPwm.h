/* Pulses of 100 steps of 100 microseconds, on any pin. */
#ifndef BOARD_SOFTPWM_H
#define BOARD_SOFTPWM_H

int softPwmCreate(int pin, int value, int range);
void softPwmWrite(int pin, int value);
void softPwmStop(int pin);

#ifndef BOARD_BOARD_H
#include "here.h"
#define softPwmCreate(...) (BOARD_HERE, softPwmCreate(__VA_ARGS__))
#define softPwmWrite(...) (BOARD_HERE, softPwmWrite(__VA_ARGS__))
#define softPwmStop(...) (BOARD_HERE, softPwmStop(__VA_ARGS__))
#endif

#endif
