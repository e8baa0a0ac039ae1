/* Pulses of 100 steps of 100 microseconds, on any pin. */
#ifndef BOARD_SOFTPWM_H
#define BOARD_SOFTPWM_H

int softPwmCreate(int pin, int value, int range);
void softPwmWrite(int pin, int value);
void softPwmStop(int pin);

#endif
