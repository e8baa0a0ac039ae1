/* I. Penn: nothing pulls the key up. */
#define PULL PULL_NONE
#include "ames-alarms.c"
