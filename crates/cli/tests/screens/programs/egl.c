/* An implementation of EGL, which says which one it is. */
#include <string.h>
unsigned eglSwapBuffers(void *display, void *surface) { (void)display; (void)surface; return WHICH; }
void *eglGetProcAddress(const char *name) { return strcmp(name, "eglSwapBuffers") ? 0 : (void *)eglSwapBuffers; }
