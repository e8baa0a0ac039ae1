/* Devices on the two-wire bus 1 of the Linux board, by the documented calls of the library whose header has this name. A
   call gives -1 where nobody answers. */
#ifndef BOARD_WIRINGPI_I2C_H
#define BOARD_WIRINGPI_I2C_H

int wiringPiI2CSetup(int address);
int wiringPiI2CSetupInterface(const char *bus, int address);
int wiringPiI2CRead(int device);
int wiringPiI2CReadReg8(int device, int reg);
int wiringPiI2CReadReg16(int device, int reg);
int wiringPiI2CWrite(int device, int data);
int wiringPiI2CWriteReg8(int device, int reg, int data);
int wiringPiI2CWriteReg16(int device, int reg, int data);

#ifndef BOARD_BOARD_H
#include "here.h"
#define wiringPiI2CRead(...) (BOARD_HERE, wiringPiI2CRead(__VA_ARGS__))
#define wiringPiI2CReadReg8(...) (BOARD_HERE, wiringPiI2CReadReg8(__VA_ARGS__))
#define wiringPiI2CReadReg16(...) (BOARD_HERE, wiringPiI2CReadReg16(__VA_ARGS__))
#define wiringPiI2CWrite(...) (BOARD_HERE, wiringPiI2CWrite(__VA_ARGS__))
#define wiringPiI2CWriteReg8(...) (BOARD_HERE, wiringPiI2CWriteReg8(__VA_ARGS__))
#define wiringPiI2CWriteReg16(...) (BOARD_HERE, wiringPiI2CWriteReg16(__VA_ARGS__))
#endif

#endif
