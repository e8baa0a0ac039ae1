/* O. Zelnik: the end of a longer line stays. */
#define LINE "%u steps"
#include "bowles-interrupt.c"
