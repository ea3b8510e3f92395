/* Makes more Vulkan instances and devices than any program has at once, uses all of them, and destroys them. */
#include <dlfcn.h>
#include <stdint.h>
#include <stdio.h>

enum { CROWD = 70 };
typedef void *(*look_t)(void *, const char *);
struct made { uint32_t kind; const void *next; uint32_t flags; const void *rest[8]; };
struct queue { uint32_t kind; const void *next; uint32_t flags, family, count; const float *priorities; };
struct device { uint32_t kind; const void *next; uint32_t flags, queues; const struct queue *queue; const void *rest[6]; };

int main(void) {
    void *library = dlopen("libvulkan.so.1", RTLD_NOW);
    if (!library) return puts("no Vulkan"), 1;
    look_t look = dlsym(library, "vkGetInstanceProcAddr");
    int (*create)(const void *, const void *, void **) = look(0, "vkCreateInstance");
    void *instances[CROWD], *devices[CROWD];
    int made = 0, queues = 0, idle = 0;
    for (int i = 0; i < CROWD; i++) {
        struct made how = { .kind = 1 };
        if (create(&how, 0, &instances[i])) return printf("instance %d\n", i), 1;
        int (*list)(void *, uint32_t *, void **) = look(instances[i], "vkEnumeratePhysicalDevices");
        uint32_t count = 1;
        void *physical;
        if (list(instances[i], &count, &physical) < 0 || !count) return printf("none at %d\n", i), 1;
        int (*begin)(void *, const void *, const void *, void **) = look(instances[i], "vkCreateDevice");
        float priority = 1;
        struct queue queue = { .kind = 2, .count = 1, .priorities = &priority };
        struct device device = { .kind = 3, .queues = 1, .queue = &queue };
        if (begin(physical, &device, 0, &devices[i])) return printf("device %d\n", i), 1;
        made++;
    }
    for (int i = 0; i < CROWD; i++) {
        look_t of = look(instances[i], "vkGetDeviceProcAddr");
        void (*get)(void *, uint32_t, uint32_t, void **) = (void *)of(devices[i], "vkGetDeviceQueue");
        void *queue = 0;
        get(devices[i], 0, 0, &queue);
        queues += queue != 0;
        int (*wait)(void *) = (void *)of(devices[i], "vkDeviceWaitIdle");
        idle += wait(devices[i]) == 0;
        void (*end)(void *, const void *) = (void *)of(devices[i], "vkDestroyDevice");
        end(devices[i], 0);
        void (*over)(void *, const void *) = look(instances[i], "vkDestroyInstance");
        over(instances[i], 0);
    }
    printf("%d devices, %d queues, %d idle\n", made, queues, idle);
    return 0;
}
