/* The bus with a clock line of the Linux board, by the documented calls of the library whose header has this name. */
#ifndef BOARD_WIRINGPI_SPI_H
#define BOARD_WIRINGPI_SPI_H

int wiringPiSPISetup(int channel, int speed);
int wiringPiSPISetupMode(int channel, int speed, int mode);
int wiringPiSPIGetFd(int channel);
int wiringPiSPIDataRW(int channel, unsigned char *data, int length);

#endif
