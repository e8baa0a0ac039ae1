/* Calls tell where in the program they stand. */
#ifndef BOARD_HERE_H
#define BOARD_HERE_H

extern struct board_view {
	unsigned long long levels, left; /* what inputs are at, and for how many blocks they stay so */
	const char *file;
	int line;
} board_now_known;

#define BOARD_HERE (board_now_known.file = __FILE__, board_now_known.line = __LINE__)

#endif
