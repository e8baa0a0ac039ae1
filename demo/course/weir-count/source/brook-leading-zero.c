/* N. Brook: a zero stands before numbers of one digit. */
#define LEADING font[0]
#include "haq-polling.c"
