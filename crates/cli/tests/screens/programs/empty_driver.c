/* A graphics library that shows nothing and takes no time. */
void glXSwapBuffers(void *display, unsigned long drawable) { __asm__ volatile("" ::: "memory"); }
