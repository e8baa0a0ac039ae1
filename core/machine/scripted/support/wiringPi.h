/* The pins of the Linux board, by the documented calls of the library whose header has this name. */
#ifndef BOARD_WIRINGPI_H
#define BOARD_WIRINGPI_H

#include <stdint.h>

#ifndef TRUE
#define TRUE 1
#define FALSE 0
#endif

#define INPUT 0
#define OUTPUT 1
#define PWM_OUTPUT 2
#define GPIO_CLOCK 3

#define LOW 0
#define HIGH 1

#define PUD_OFF 0
#define PUD_DOWN 1
#define PUD_UP 2

#define PWM_MODE_MS 0
#define PWM_MODE_BAL 1

#define INT_EDGE_SETUP 0
#define INT_EDGE_FALLING 1
#define INT_EDGE_RISING 2
#define INT_EDGE_BOTH 3

/* Which numbers pins have from now on: the library's own, the processor's, those of the header. */
int wiringPiSetup(void);
int wiringPiSetupGpio(void);
int wiringPiSetupPhys(void);
int wiringPiSetupSys(void);

void pinMode(int pin, int mode);
void pullUpDnControl(int pin, int pull);
void digitalWrite(int pin, int value);
int digitalRead(int pin);
void digitalWriteByte(int value);
int wpiPinToGpio(int pin);
int physPinToGpio(int pin);

/* Pulses of 19.2 MHz / clock / range; range is 1024 and clock 32 at first. */
void pwmWrite(int pin, int value);
void pwmSetMode(int mode);
void pwmSetRange(unsigned int range);
void pwmSetClock(int divisor);

void delay(unsigned int milliseconds);
void delayMicroseconds(unsigned int microseconds);
unsigned int millis(void);
unsigned int micros(void);

int wiringPiISR(int pin, int edge, void (*function)(void));
int waitForInterrupt(int pin, int milliseconds);

/* Threads, of which one runs at a time; a program begins one as PI_THREAD(name) { ... } and piThreadCreate(name). */
#define PI_THREAD(X) void *X(void *dummy)
int piThreadCreate(void *(*function)(void *));
void piLock(int key);
void piUnlock(int key);
int piHiPri(int priority);

#ifndef BOARD_BOARD_H
#include "here.h"
#define pinMode(...) (BOARD_HERE, pinMode(__VA_ARGS__))
#define pullUpDnControl(...) (BOARD_HERE, pullUpDnControl(__VA_ARGS__))
#define digitalWrite(...) (BOARD_HERE, digitalWrite(__VA_ARGS__))
#define digitalWriteByte(...) (BOARD_HERE, digitalWriteByte(__VA_ARGS__))
#define pwmWrite(...) (BOARD_HERE, pwmWrite(__VA_ARGS__))
#endif

#endif
