/* Buses whose hardware works by itself. */
#include "board.h"
#include "wiringPi.h"
#include "wiringPiI2C.h"
#include "wiringPiSPI.h"
#include "wiringShift.h"
#include <string.h>

/* A device is known by its address. */
UNCOUNTED int wiringPiI2CSetup(int address)
{
	return address >= 3 && address <= 0x77 ? address : -1;
}

UNCOUNTED int wiringPiI2CSetupInterface(const char *bus, int address)
{
	return strcmp(bus, "/dev/i2c-1") ? -1 : wiringPiI2CSetup(address);
}

UNCOUNTED static int transfer(int device, const unsigned char *out, int written, unsigned char *in, int read)
{
	return board_two_wire(board_blocks(), device, out, written, in, read) ? 0 : -1;
}

UNCOUNTED int wiringPiI2CRead(int device)
{
	unsigned char in;
	return transfer(device, 0, 0, &in, 1) ? -1 : in;
}

UNCOUNTED int wiringPiI2CReadReg8(int device, int reg)
{
	unsigned char out = reg, in;
	return transfer(device, &out, 1, &in, 1) ? -1 : in;
}

UNCOUNTED int wiringPiI2CReadReg16(int device, int reg)
{
	unsigned char out = reg, in[2];
	return transfer(device, &out, 1, in, 2) ? -1 : in[0] | in[1] << 8;
}

UNCOUNTED int wiringPiI2CWrite(int device, int data)
{
	unsigned char out = data;
	return transfer(device, &out, 1, 0, 0);
}

UNCOUNTED int wiringPiI2CWriteReg8(int device, int reg, int data)
{
	unsigned char out[] = {reg, data};
	return transfer(device, out, 2, 0, 0);
}

UNCOUNTED int wiringPiI2CWriteReg16(int device, int reg, int data)
{
	unsigned char out[] = {reg, data, data >> 8};
	return transfer(device, out, 3, 0, 0);
}

static int speeds[2], spi_modes[2];

UNCOUNTED int wiringPiSPISetupMode(int channel, int speed, int mode)
{
	if (channel < 0 || channel > 1 || speed <= 0)
		return -1;
	speeds[channel] = speed;
	spi_modes[channel] = mode & 3;
	for (int pin = 7; pin <= 8; pin++)
		board_drive(board_blocks(), pin, 1);
	board_drive(board_blocks(), 10, 0);
	board_drive(board_blocks(), 11, spi_modes[channel] >> 1);
	board_drive(board_blocks(), 9, 'z');
	return 3 + channel;
}

UNCOUNTED int wiringPiSPISetup(int channel, int speed) { return wiringPiSPISetupMode(channel, speed, 0); }
UNCOUNTED int wiringPiSPIGetFd(int channel) { return 3 + (channel & 1); }

UNCOUNTED int wiringPiSPIDataRW(int channel, unsigned char *data, int length)
{
	if (channel < 0 || channel > 1 || !speeds[channel] || length <= 0 || length > 4096)
		return -1;
	board_exchange(board_blocks(), channel, spi_modes[channel], speeds[channel], data, length);
	return length;
}

UNCOUNTED uint8_t shiftIn(uint8_t data, uint8_t clock, uint8_t order)
{
	uint8_t value = 0;
	for (int i = 0; i < 8; i++) {
		digitalWrite(clock, HIGH);
		value |= digitalRead(data) << (order == MSBFIRST ? 7 - i : i);
		digitalWrite(clock, LOW);
	}
	return value;
}

UNCOUNTED void shiftOut(uint8_t data, uint8_t clock, uint8_t order, uint8_t value)
{
	for (int i = 0; i < 8; i++) {
		digitalWrite(data, value >> (order == MSBFIRST ? 7 - i : i) & 1);
		digitalWrite(clock, HIGH);
		digitalWrite(clock, LOW);
	}
}
