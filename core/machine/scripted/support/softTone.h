/* Tones on any pin. */
#ifndef BOARD_SOFT_TONE_H
#define BOARD_SOFT_TONE_H

int softToneCreate(int pin);
void softToneWrite(int pin, int frequency);
void softToneStop(int pin);

#endif
