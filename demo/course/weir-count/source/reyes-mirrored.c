/* M. Reyes: the digits stand the wrong way round. */
#define PLACE(i) (i)
#include "ames-alarms.c"
