/* G. Ferris: another word. */
#define LINE "%u stages "
#include "carver-polling.c"
