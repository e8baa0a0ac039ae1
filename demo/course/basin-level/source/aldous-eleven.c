/* W. Aldous: begins again after eleven. */
#define LAST 11
#include "dyson-alarms.c"
