/* K. Tarn: the eight lacks a segment. */
#define EIGHT 0x7d
#include "ames-alarms.c"
