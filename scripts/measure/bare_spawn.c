/* The yardstick of timing overhead: spawns a program N times and waits for it, with nothing of
 * ours around it, and prints the nanoseconds of each on a line. A pause between two spawns, in
 * microseconds, gives it the rhythm of laps, whose caches and cores have gone cold meanwhile. */
#define _GNU_SOURCE
#include <fcntl.h>
#include <spawn.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

extern char **environ;

int main(int argc, char **argv) {
    if (argc < 4) return 2;
    posix_spawn_file_actions_t files;
    posix_spawn_file_actions_init(&files);
    posix_spawn_file_actions_addopen(&files, 0, "/dev/null", O_RDONLY, 0);
    posix_spawn_file_actions_addopen(&files, 1, "/dev/null", O_WRONLY, 0);
    for (long left = atol(argv[1]); left > 0; left--) {
        struct timespec from, to;
        pid_t child;
        int status;
        usleep(atoi(argv[2]));
        clock_gettime(CLOCK_MONOTONIC, &from);
        if (posix_spawnp(&child, argv[3], &files, NULL, argv + 3, environ) != 0) return 3;
        waitpid(child, &status, 0);
        clock_gettime(CLOCK_MONOTONIC, &to);
        printf("%ld\n", (to.tv_sec - from.tv_sec) * 1000000000L + to.tv_nsec - from.tv_nsec);
    }
    return 0;
}
