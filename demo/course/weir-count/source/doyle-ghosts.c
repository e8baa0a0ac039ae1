/* C. Doyle: the next digit is selected before its segments are set. */
#define SELECT_FIRST 300
#include "haq-polling.c"
