/* Presents to an empty driver, and counts what it presents. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <fcntl.h>
#include <pthread.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/syscall.h>
#include <sys/wait.h>
#include <unistd.h>

void glXSwapBuffers(void *display, unsigned long drawable);

static long each;

static void *present(void *window) {
    for (long n = 0; n < each; n++) glXSwapBuffers(0, (unsigned long)window);
    return 0;
}

/* A thread a window. */
static void threads(long count) {
    pthread_t all[16];
    for (long n = 0; n < count; n++) pthread_create(&all[n], 0, present, (void *)(n + 1));
    for (long n = 0; n < count; n++) pthread_join(all[n], 0);
}

/* Children that present until they are killed; says how far each had come. */
static void killed(long rounds) {
    volatile long *shown = mmap(0, 4096, PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    srand(7);
    for (long round = 0; round < rounds; round++) {
        *shown = 0;
        pid_t child = fork();
        if (!child)
            for (;;) {
                glXSwapBuffers(0, 3);
                ++*shown;
            }
        while (!*shown) usleep(50);
        usleep(rand() % 4000);
        kill(child, SIGKILL);
        waitpid(child, 0, 0);
        printf("process %d presented %ld\n", child, *shown);
    }
}

int main(int count, char **words) {
    const char *how = words[1];
    each = count > 2 ? atol(words[2]) : 1000;
    long more = count > 3 ? atol(words[3]) : 0;
    if (!strcmp(how, "threads")) threads(more);
    else if (!strcmp(how, "killed")) killed(each);
    else if (!strcmp(how, "paced")) /* a pause of so many microseconds behind each */
        for (long n = 0; n < each; n++) {
            glXSwapBuffers(0, 1);
            usleep(more);
        }
    else if (!strcmp(how, "windows")) /* the second gets every other frame */
        for (long n = 0; n < each; n++) {
            glXSwapBuffers(0, 1);
            if (n % 2 == 0) glXSwapBuffers(0, 2);
        }
    else if (!strcmp(how, "looked-up")) { /* from a driver that it opened for itself alone */
        void *driver = dlopen(words[4], RTLD_NOW | RTLD_LOCAL);
        void (*swap)(void *, unsigned long) = dlsym(driver, "glXSwapBuffers");
        for (long n = 0; n < each; n++) swap(0, 4);
        printf("egl %p\n", dlsym(RTLD_DEFAULT, "eglSwapBuffers"));
    } else if (!strcmp(how, "forked")) {
        glXSwapBuffers(0, 1);
        if (!fork()) {
            present((void *)2);
            _exit(0);
        }
        present((void *)1);
        wait(0);
    } else if (!strcmp(how, "closing")) { /* closes what it does not know, and opens its own */
        glXSwapBuffers(0, 1);
        syscall(SYS_close_range, 3, ~0u, 0);
        int own = open("own", O_RDWR | O_CREAT | O_TRUNC, 0600);
        present((void *)1);
        printf("own %ld bytes\n", (long)lseek(own, 0, SEEK_END));
    }
    return 0;
}
