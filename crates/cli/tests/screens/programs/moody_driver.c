/* An empty driver, which does what the variable DRIVER says in the midst of a present. */
#include "host.h"
unsigned glXSwapBuffers(void *display, unsigned long drawable) {
    (void)display;
    const char *what = getenv("DRIVER");
    if (what && !strcmp(what, "raise")) raise(SIGUSR1);
    if (what && !strcmp(what, "exit-thread")) pthread_exit(0);
    return (unsigned)drawable;
}
