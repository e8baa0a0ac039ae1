/* Tones on any pin. */
#ifndef BOARD_SOFT_TONE_H
#define BOARD_SOFT_TONE_H

int softToneCreate(int pin);
void softToneWrite(int pin, int frequency);
void softToneStop(int pin);

#ifndef BOARD_BOARD_H
#include "here.h"
#define softToneCreate(...) (BOARD_HERE, softToneCreate(__VA_ARGS__))
#define softToneWrite(...) (BOARD_HERE, softToneWrite(__VA_ARGS__))
#define softToneStop(...) (BOARD_HERE, softToneStop(__VA_ARGS__))
#endif

#endif
