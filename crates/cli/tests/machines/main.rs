//! A lab of many machines: its store, in a PostgreSQL server of each test's own, and its rigs, reached through an OpenSSH
//! server of each test's own.
//!
//! Runs for about two minutes on two cores.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

mod driving;
mod hostile;
mod kills;
mod reading;
mod rights;
mod syncing;
mod year;

use honest_lap_testkit::{Postgres, TestEnv};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns what `lap sync` says, with a login, which must come to exit status 0.
fn sync(env: &TestEnv, server: &Postgres, role: &str) -> String {
    let came = env.lap(&["sync", "--store", &server.address(role)]);
    assert_eq!(came.status, Some(0), "{role}: {came}");
    came.stderr
}

/// Makes the store, and lets each login send sessions of the rig of its own name.
fn lab(server: &Postgres, rigs: &[&str]) {
    let env = TestEnv::new(LAP);
    let address = server.address("keeper");
    env.lap_ok(&["store", "init", "--store", &address]);
    for rig in rigs {
        env.lap_ok(&["store", "allow", rig, "--rig", rig, "--store", &address]);
    }
}

/// Returns a study with a rig and one workload that is timed by hand, and so many laps on each of so many days.
fn typed(rig: &str, laps: usize, days: usize) -> TestEnv {
    let study = format!("[workload.tunnel]\nkind = \"task\"\nby_hand = \"fly it\"\n[rig.{rig}]\n");
    let env = TestEnv::with_study(LAP, &study);
    let mut sheet = "rig,date,tunnel [s]\n".to_owned();
    for day in 1..=days {
        for lap in 0..laps {
            let time = 90.0 + 0.013 * (lap * 7 % 101) as f64 + 0.1 * day as f64;
            sheet += &format!("{rig},2026-{:02}-{:02},{time:.3}\n", 1 + day / 28, 1 + day % 28);
        }
    }
    env.write("t.csv", &sheet);
    env.lap_ok(&["enter", "--table", "t.csv"]);
    env
}

/// Returns a folder with the demo's lab: passes, endurance laps, searches, remarks.
fn harbour() -> TestEnv {
    let lab = TestEnv::harbour(LAP);
    let env = TestEnv::new(LAP);
    for name in ["study.toml", "logbook.db"] {
        std::fs::copy(lab.path().join("lab").join(name), env.path().join(name)).unwrap();
    }
    env
}

/// Returns a study of the same workload that has no laps yet.
fn empty(of: &TestEnv) -> TestEnv {
    let study = std::fs::read_to_string(of.path().join("study.toml")).unwrap();
    TestEnv::with_study(LAP, &study)
}
