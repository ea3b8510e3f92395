//! The doubt *swapped*, on a machine that really swaps: a file of its own is made its swap.
//!
//! Where the kernel lets nobody add a swap file (a container), the test says so and leaves it to
//! the simulated machine in `trouble.rs`.
//!
//! Runs for about 3 s on one core of two.

use honest_lap_testkit::{TestEnv, as_root, has_root};
use std::io::Write;
use std::process::Command;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Writes 32 MB of memory to the swap at once, and reads it back.
const SWAPPER: &str = "#define _GNU_SOURCE\n\
    #include <string.h>\n#include <sys/mman.h>\n#include <unistd.h>\n\
    #ifndef MADV_PAGEOUT\n#define MADV_PAGEOUT 21\n#endif\n\
    int main(void) {\n\
    size_t size = 32 << 20;\n\
    char *at = mmap(0, size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);\n\
    for (size_t i = 0; i < size; i++) at[i] = (char)(i * 2654435761u >> 7);\n\
    if (madvise(at, size, MADV_PAGEOUT)) return 4;\n\
    unsigned long sum = 0;\n\
    for (size_t i = 0; i < size; i += 4096) sum += at[i];\n\
    usleep(600000);\n\
    return sum == 1;\n}\n";

/// Runs a step of the set-up.
fn set_up(env: &TestEnv, command: &[&str]) {
    let done = Command::new(command[0]).args(&command[1..]).current_dir(env.path()).status();
    assert!(done.is_ok_and(|status| status.success()), "{command:?}");
}

#[test]
fn a_lap_that_swaps_is_told_with_how_much() {
    if !has_root("a lap that swaps is told") {
        return;
    }
    let env = TestEnv::with_workload(LAP, "command = [\"./swapper\"]");
    env.write("swapper.c", SWAPPER);
    set_up(&env, &["cc", "-O1", "-o", "swapper", "swapper.c"]);
    set_up(&env, &["fallocate", "-l", "64M", "swap"]);
    set_up(&env, &["chmod", "600", "swap"]);
    set_up(&env, &["/usr/sbin/mkswap", "swap"]);
    let file = env.path().join("swap").display().to_string();
    if !as_root(&["/usr/sbin/swapon", &file]) {
        let word =
            "a lap that swaps is told: skipped, no swap file may be added in this container\n";
        std::io::stderr().write_all(word.as_bytes()).unwrap();
        return;
    }
    let came = env.lap(&["run", "--laps", "3"]);
    let said = env.lap(&["doubts", "--format", "csv"]).stdout;
    // Taken back whatever was found, so that a failure leaves no machine with a swap file.
    as_root(&["/usr/sbin/swapoff", &file]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(said.contains("swapped") && said.contains("MB were swapped"), "{said}");
}
