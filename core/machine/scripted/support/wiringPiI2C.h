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

#endif
