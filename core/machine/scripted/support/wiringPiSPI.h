/* The bus with a clock line of the Linux board, by the documented calls of the library whose header has this name. */
#ifndef BOARD_WIRINGPI_SPI_H
#define BOARD_WIRINGPI_SPI_H

int wiringPiSPISetup(int channel, int speed);
int wiringPiSPISetupMode(int channel, int speed, int mode);
int wiringPiSPIGetFd(int channel);
int wiringPiSPIDataRW(int channel, unsigned char *data, int length);

#ifndef BOARD_BOARD_H
#include "here.h"
#define wiringPiSPISetup(...) (BOARD_HERE, wiringPiSPISetup(__VA_ARGS__))
#define wiringPiSPISetupMode(...) (BOARD_HERE, wiringPiSPISetupMode(__VA_ARGS__))
#define wiringPiSPIDataRW(...) (BOARD_HERE, wiringPiSPIDataRW(__VA_ARGS__))
#endif

#endif
