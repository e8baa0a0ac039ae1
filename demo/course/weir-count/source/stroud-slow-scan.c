/* V. Stroud: the digits take turns too slowly. */
#define SLOT 60000
#include "haq-polling.c"
