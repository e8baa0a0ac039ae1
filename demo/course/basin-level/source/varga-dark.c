/* B. Varga: the backlight's bit is never set. */
#define LIGHT 0
#include "dyson-alarms.c"
