/* Waits until it is ended, and shows nothing. */
#include <unistd.h>
int main(void) { for (;;) pause(); }
