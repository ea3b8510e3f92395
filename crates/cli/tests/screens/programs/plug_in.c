/* A plug-in, linked against an implementation of EGL that nobody else sees. */
#include "host.h"
unsigned eglSwapBuffers(void *display, void *surface);
unsigned show(void) {
    volatile unsigned said = eglSwapBuffers(0, 0); /* its own frame is there while it calls */
    return said;
}
unsigned show_last(void) { return eglSwapBuffers(0, 0); }
unsigned show_looked_up(void) {
    unsigned (*found)(void *, void *) = (unsigned (*)(void *, void *))dlsym(RTLD_DEFAULT, "eglSwapBuffers");
    volatile unsigned said = found ? found(0, 0) : 9;
    return said;
}
