/* K. Tarn: the nine lacks its lowest segment. */
#define NINE 0x67
#include "ames-alarms.c"
