/* H. Munro: the second row at an address that is off the glass. */
#define SECOND_ROW 0x14
#include "carver-polling.c"
