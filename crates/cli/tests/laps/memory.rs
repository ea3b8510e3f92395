//! Peak memory: the lap's own, and not ours.
//!
//! Runs for about 1 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::{TestEnv, compiled};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

fn peak(env: &TestEnv, lap: &str) -> (f64, f64) {
    let json = env.lap_ok(&["show", lap, "--format", "json"]);
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    let row = &json["groups"][0]["rows"][0];
    (row["peak_bytes"].as_f64().unwrap(), row["peak_floor_bytes"].as_f64().unwrap())
}

/// A program that touches 768 MiB, and next to nothing else: the tool's own, unoptimised in a test, would add what of its
/// file happens to be in memory.
const HOLD: &str = "#include <stdlib.h>\n\
                    int main(void) {\n\
                        size_t all = (size_t)768 << 20;\n\
                        volatile char *at = malloc(all);\n\
                        for (size_t page = 0; page < all; page += 4096) at[page] = 1;\n\
                        return at[0] - 1;\n\
                    }\n";

#[test]
fn a_large_program_reads_what_it_holds_and_a_small_one_no_more_than_the_starter() {
    let study = "[study]\nwarm_up = 0\nlaps = 1\n\
                 [workload.large]\nkind = \"task\"\ncommand = [\"./hold\"]\n\
                 [workload.small]\nkind = \"task\"\ncommand = [\"true\"]\n";
    let env = TestEnv::with_study(LAP, study);
    env.write("hold.c", HOLD);
    compiled(env.path().join("hold.c").to_str().unwrap(), &env.path().join("hold"), &[]);
    env.lap_ok(&["run"]);
    let wanted = f64::from(768 << 20);
    let (large, _) = peak(&env, "here-1.1");
    assert!((large / wanted - 1.0).abs() < 0.01, "{large} is not {wanted}");
    // An unoptimised starter holds 4 to 8 MB; the tool itself holds about twice the bound.
    let (small, floor) = peak(&env, "here-1.2");
    assert!(small < 12e6 && floor < 12e6, "{small} with a floor of {floor}");
}
