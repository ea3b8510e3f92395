//! The doubt *swapped*, on a machine that really swaps: a file of its own is made its swap.
//!
//! Where the kernel lets nobody add a swap file (a container), the test says so and leaves it to
//! the simulated machine in `trouble.rs`. A test binary of its own, since the kernel counts what is swapped for the whole machine.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::TestEnv;
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

/// Runs a step of the set-up, with `sudo` where the test's user may not do it, and returns whether
/// the kernel permits it.
fn system(env: &TestEnv, command: &[&str]) -> bool {
    let may = Command::new("id").arg("-u").output().unwrap().stdout == b"0\n";
    let words = if may { command.to_vec() } else { [&["sudo", "-n"], command].concat() };
    let came = Command::new(words[0]).args(&words[1..]).current_dir(env.path()).output().unwrap();
    let refused = String::from_utf8_lossy(&came.stderr).contains("not permitted");
    assert!(came.status.success() || refused, "{words:?}: {came:?}");
    !refused
}

#[test]
fn a_lap_that_swaps_is_told_with_how_much() {
    let env = TestEnv::with_workload(LAP, "command = [\"./swapper\"]");
    env.write("swapper.c", SWAPPER);
    system(&env, &["cc", "-O1", "-o", "swapper", "swapper.c"]);
    system(&env, &["fallocate", "-l", "64M", "swap"]);
    system(&env, &["chmod", "600", "swap"]);
    system(&env, &["/usr/sbin/mkswap", "swap"]);
    if !system(&env, &["/usr/sbin/swapon", "swap"]) {
        eprintln!("no swap file may be added here: nothing is swapped, and nothing is tested");
        return;
    }
    let came = env.lap(&["run", "--laps", "3"]);
    let said = env.lap(&["doubts", "--format", "csv"]).stdout;
    // Taken back whatever was found, so that a failure leaves no machine with a swap file.
    system(&env, &["/usr/sbin/swapoff", "swap"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(said.contains("swapped") && said.contains("MB were swapped"), "{said}");
}
