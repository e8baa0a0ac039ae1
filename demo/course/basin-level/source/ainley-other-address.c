/* F. Ainley: the address of another board. */
#define ADDRESS 0x26
#include "carver-polling.c"
