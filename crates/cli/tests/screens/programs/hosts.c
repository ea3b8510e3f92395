/* Programs with habits of their own, each by its name: what one prints is the same with and without the recorder. */
#include "host.h"

unsigned glXSwapBuffers(void *display, unsigned long drawable);
typedef unsigned (*swap_t)(void *, unsigned long);
typedef void *(*look_t)(const char *);

static void present(int times) { while (times--) glXSwapBuffers(0, 1); }

/* The kernel's own forms, whose headers not every C library brings along. */
struct step { unsigned short code; unsigned char then, otherwise; unsigned value; };
struct filter { unsigned short count; struct step *steps; };
enum { LOAD = 0x20, IF_EQUAL = 0x15, ANSWER = 0x06, PASS = 0x7fff0000 };
#define KILL 0x80000000u

/* Kills the program at these calls. */
static void forbid(const int *calls, int count) {
    struct step steps[64];
    int n = 0;
    steps[n++] = (struct step){ LOAD, 0, 0, 0 };
    for (int i = 0; i < count; i++) {
        steps[n++] = (struct step){ IF_EQUAL, 0, 1, calls[i] };
        steps[n++] = (struct step){ ANSWER, 0, 0, KILL };
    }
    steps[n++] = (struct step){ ANSWER, 0, 0, PASS };
    struct filter filter = { n, steps };
    prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    if (prctl(PR_SET_SECCOMP, 2, &filter)) puts("no filter");
}

static void sandbox(void) {
    int calls[] = { SYS_open, SYS_openat, SYS_rename, SYS_renameat, SYS_renameat2, SYS_mmap, SYS_fallocate,
                    SYS_readlink, SYS_readlinkat, SYS_getpid, SYS_gettid, SYS_madvise, SYS_clock_gettime, SYS_getrlimit };
    forbid(calls, sizeof calls / sizeof *calls);
    present(100);
    puts("ends");
}

static void two_libraries(void) {
    void *a = dlopen("./libone.so", RTLD_NOW | RTLD_LOCAL), *b = dlopen("./libtwo.so", RTLD_NOW | RTLD_LOCAL);
    swap_t one = dlsym(a, "eglSwapBuffers"), two = dlsym(b, "eglSwapBuffers");
    for (int i = 0; i < 50; i++) {
        unsigned x = one(0, 1), y = two(0, 2);
        if (x != 1 || y != 2) printf("wrong: %u %u\n", x, y);
    }
    printf("%d different, %d same again\n", one != two, one == (swap_t)dlsym(a, "eglSwapBuffers"));
    look_t look_one = dlsym(a, "eglGetProcAddress"), look_two = dlsym(b, "eglGetProcAddress");
    swap_t x = look_one("eglSwapBuffers"), y = look_two("eglSwapBuffers");
    printf("%u %u %d\n", x(0, 1), y(0, 2), look_one("eglNothing") == 0);
}

/* Plug-ins that are linked against libraries that nobody else sees. */
static void plug_ins(void) {
    void *a = dlopen("./plugone.so", RTLD_NOW | RTLD_LOCAL), *b = dlopen("./plugtwo.so", RTLD_NOW | RTLD_LOCAL);
    unsigned (*one)(void) = dlsym(a, "show"), (*two)(void) = dlsym(b, "show");
    unsigned (*seen)(void) = dlsym(a, "show_looked_up");
    for (int i = 0; i < 50; i++) {
        unsigned x = one(), y = two();
        if (x != 1 || y != 2) printf("wrong: %u %u\n", x, y);
    }
    printf("%u\n", seen());
    printf("%p\n", dlsym(RTLD_DEFAULT, "eglSwapBuffers"));
    printf("%s\n", dlerror() ? "told" : "not told");
}

/* As above, and it ends with the call, which then returns to the program. */
static void one_plug_in(void) {
    void *it = dlopen("./plugtwo.so", RTLD_NOW | RTLD_LOCAL);
    unsigned (*show)(void) = dlsym(it, "show_last");
    unsigned sum = 0;
    for (int i = 0; i < 50; i++) sum += show();
    printf("%u\n", sum);
#ifdef __GLIBC__ /* others never unload one */
    dlclose(it);
    it = dlopen("./plugone.so", RTLD_NOW | RTLD_LOCAL);
    show = dlsym(it, "show_last");
    printf("%u\n", show());
#endif
}

static void same_function(void) {
    swap_t found = dlsym(RTLD_DEFAULT, "glXSwapBuffers");
    printf("%d\n", found == (swap_t)glXSwapBuffers);
    void *self = dlopen(0, RTLD_NOW);
    printf("%d\n", dlsym(self, "glXSwapBuffers") == (void *)glXSwapBuffers);
    void *library = dlopen("libempty.so", RTLD_NOW | RTLD_NOLOAD);
    printf("%d\n", library && dlsym(library, "glXSwapBuffers") == (void *)glXSwapBuffers);
    printf("%d %d\n", dlsym(RTLD_DEFAULT, "eglSwapBuffers") == 0, dlerror() != 0);
    found(0, 1);
}

static void many_libraries(void) {
    char name[32];
    unsigned sum = 0;
    for (int i = 0; i < 30; i++) {
        snprintf(name, sizeof name, "./many%d.so", i);
        void *it = dlopen(name, RTLD_NOW | RTLD_LOCAL);
        swap_t swap = it ? dlsym(it, "eglSwapBuffers") : 0;
        if (swap) sum += swap(0, i + 1);
    }
    printf("%u\n", sum);
}

static void *look_up(void *which) {
    for (int i = 0; i < 2000; i++) {
        void *it = dlopen(which, RTLD_NOW | RTLD_LOCAL);
        swap_t swap = dlsym(it, "eglSwapBuffers");
        unsigned said = swap(0, 1);
        dlclose(it);
        if (said != (strstr(which, "one") ? 1u : 2u)) return "wrong";
    }
    return 0;
}

static void looking_up_at_once(void) {
    void *a = dlopen("./libone.so", RTLD_NOW | RTLD_LOCAL), *b = dlopen("./libtwo.so", RTLD_NOW | RTLD_LOCAL);
    pthread_t all[4];
    for (int i = 0; i < 4; i++) pthread_create(&all[i], 0, look_up, i % 2 ? "./libone.so" : "./libtwo.so");
    for (int i = 0; i < 4; i++) {
        void *said;
        pthread_join(all[i], &said);
        if (said) puts(said);
    }
    printf("%d\n", a && b);
}

static void unloading(void) {
    for (int i = 0; i < 20; i++) {
        void *it = dlopen(i % 2 ? "./libone.so" : "./libtwo.so", RTLD_NOW | RTLD_LOCAL);
        swap_t swap = dlsym(it, "eglSwapBuffers");
        printf("%u", swap(0, 1));
        printf("%d", dlclose(it));
    }
    puts("");
}

static jmp_buf back;
static void jump(int signal) { (void)signal; siglongjmp(back, 1); }
static void jumping_out(void) {
    signal(SIGUSR1, jump);
    volatile int jumps = 0;
    if (sigsetjmp(back, 1)) jumps++;
    if (jumps < 20) {
        setenv("DRIVER", "raise", 1);
        glXSwapBuffers(0, 1);
    }
    setenv("DRIVER", "", 1);
    present(30);
    printf("%d\n", jumps);
}

static volatile int in_signal;
static void on_alarm(int signal) { (void)signal; in_signal++; setenv("DRIVER", "", 1); glXSwapBuffers(0, 2); }
static void presenting_in_signals(void) {
    signal(SIGUSR1, on_alarm);
    for (int i = 0; i < 10; i++) {
        setenv("DRIVER", "raise", 1);
        present(1);
    }
    raise(SIGUSR1);
    printf("%d\n", in_signal);
}

static void *ends_inside(void *unused) {
    (void)unused;
    pthread_cleanup_push((void (*)(void *))puts, "cleaned up");
    glXSwapBuffers(0, 3);
    pthread_cleanup_pop(0);
    return "came back";
}
static void threads_that_end(void) {
    setenv("DRIVER", "exit-thread", 1);
    for (int i = 0; i < 5; i++) {
        pthread_t one;
        void *said = 0;
        pthread_create(&one, 0, ends_inside, 0);
        pthread_join(one, &said);
        puts(said ? (char *)said : "ended");
    }
    setenv("DRIVER", "", 1);
    present(10);
}

static void cleared(void) {
    clearenv();
    present(20);
    if (!fork()) { present(5); _exit(0); }
    wait(0);
    puts("cleared");
}

static void another_user(void) {
    if (getuid() == 0 && (setgid(65534) || setuid(65534))) puts("no");
    present(20);
    puts("another");
}

static void another_root(void) {
    if (getuid() == 0 && (chroot("/proc/self/fdinfo") || chdir("/"))) puts("no");
    present(20);
    puts("rooted");
}

static void closing(void) {
    syscall(SYS_close_range, 3, ~0u, 0);
    present(20);
    int own = open("/dev/null", O_RDONLY);
    printf("%d\n", own);
}

static void forks(void) {
    for (int i = 0; i < 10; i++) {
        present(3);
        pid_t child = fork();
        if (!child) {
            present(7);
            if (i % 3 == 0) execl("/proc/self/exe", "hosts", "once", (char *)0);
            _exit(0);
        }
        waitpid(child, 0, 0);
    }
    puts("forked");
}

static void once(void) { present(1); }

static void vforks(void) {
    for (int i = 0; i < 5; i++) {
        pid_t child = vfork();
        if (!child) { execl("/bin/true", "true", (char *)0); _exit(1); }
        waitpid(child, 0, 0);
        present(2);
    }
    puts("vforked");
}

static void limits(void) {
    struct rlimit none = { 0, 0 };
    setrlimit(RLIMIT_FSIZE, &none);
    setrlimit(RLIMIT_NOFILE, &none);
    setrlimit(RLIMIT_MEMLOCK, &none);
    present(50);
    puts("limited");
}

static void error_number(void) {
    errno = 77;
    glXSwapBuffers(0, 1);
    printf("%d\n", errno);
    dlsym(RTLD_DEFAULT, "getpid");
    printf("%d\n", errno);
}

/* Locks all that it has, and all that it will have. */
static void locked(void) {
    struct rlimit little = { 64 << 20, 64 << 20 };
    setrlimit(RLIMIT_MEMLOCK, &little);
    printf("%d\n", mlockall(MCL_CURRENT | MCL_FUTURE));
    present(20);
}

static char other_stack[65536];
static void on_other_stack(int signal) { (void)signal; present(5); }
static void another_stack(void) {
    stack_t stack = { .ss_sp = other_stack, .ss_size = sizeof other_stack };
    struct sigaction action = { .sa_handler = on_other_stack, .sa_flags = SA_ONSTACK };
    sigaltstack(&stack, 0);
    sigaction(SIGUSR2, &action, 0);
    for (int i = 0; i < 4; i++) { present(5); raise(SIGUSR2); }
    puts("another stack");
}

static void *endless(void *unused) { (void)unused; for (;;) { glXSwapBuffers(0, 4); pthread_testcancel(); } }
static void cancelled(void) {
    for (int i = 0; i < 3; i++) {
        pthread_t one;
        void *said;
        pthread_create(&one, 0, endless, 0);
        usleep(2000);
        pthread_cancel(one);
        pthread_join(one, &said);
        printf("%d\n", said == PTHREAD_CANCELED);
    }
    present(10);
}

static void *small(void *unused) { (void)unused; present(10); return 0; }
static void small_stack(void) {
    pthread_attr_t how;
    pthread_attr_init(&how);
    pthread_attr_setstacksize(&how, 16384);
    pthread_t one;
    printf("%d\n", pthread_create(&one, &how, small, 0));
    pthread_join(one, 0);
}

static void nobody(void) { puts("nothing is presented"); }

int main(int count, char **words) {
    setvbuf(stdout, 0, _IOLBF, 4096);
    struct { const char *name; void (*run)(void); } all[] = {
        { "sandbox", sandbox }, { "two-libraries", two_libraries },
        { "plug-ins", plug_ins }, { "one-plug-in", one_plug_in }, { "same-function", same_function }, { "many-libraries", many_libraries },
        { "looking-up-at-once", looking_up_at_once }, { "unloading", unloading }, { "jumping-out", jumping_out },
        { "presenting-in-signals", presenting_in_signals }, { "threads-that-end", threads_that_end },
        { "cleared", cleared }, { "another-user", another_user }, { "another-root", another_root }, { "closing", closing },
        { "forks", forks }, { "once", once }, { "vforks", vforks }, { "limits", limits }, { "error-number", error_number },
        { "locked", locked },
        { "another-stack", another_stack }, { "cancelled", cancelled }, { "small-stack", small_stack }, { "nobody", nobody },
    };
    for (size_t i = 0; i < sizeof all / sizeof *all; i++)
        if (count > 1 && !strcmp(words[1], all[i].name)) { all[i].run(); return 0; }
    for (size_t i = 0; i < sizeof all / sizeof *all; i++) puts(all[i].name);
    return 2;
}
