/* What a present costs on a driver that does nothing: presents.c COUNT PAUSE_US, on which it prints
   how long single calls took, in nanoseconds, without what reading the clock takes by itself. */
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

void glXSwapBuffers(void *display, unsigned long drawable);

static long now(void) {
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return at.tv_sec * 1000000000L + at.tv_nsec;
}

static int by_size(const void *a, const void *b) {
    long x = *(const long *)a, y = *(const long *)b;
    return (x > y) - (x < y);
}

int main(int words, char **word) {
    long count = atol(word[1]), pause = atol(word[2]) * 1000, over = 0;
    long *took = malloc(count * sizeof *took), *clock = malloc(count * sizeof *clock);
    glXSwapBuffers(0, 7); /* the first opens the file */
    for (long n = 0; n < count; n++) {
        long a = now(), b = now();
        clock[n] = b - a;
        /* Spinning, since a sleep would measure how the kernel wakes. */
        for (long until = a + pause; now() < until;) {}
        a = now();
        glXSwapBuffers(0, 7);
        took[n] = now() - a;
    }
    qsort(took, count, sizeof *took, by_size);
    qsort(clock, count, sizeof *clock, by_size);
    for (long n = 0; n < count; n++) over += took[n] > 50000;
    long base = clock[count / 2];
    printf("median %ld p99.9 %ld worst %ld over-50us %ld clock-worst %ld\n", took[count / 2] - base,
           took[count * 999 / 1000] - base, took[count - 1] - base, over, clock[count - 1]);
    return 0;
}
