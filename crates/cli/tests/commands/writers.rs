//! Many commands that write to one logbook at once: enter, import, merge, note, and a run.
//!
//! Runs for about 12 s on two cores.

#![expect(clippy::unwrap_used, reason = "a failing helper fails its test")]

use honest_lap_testkit::{TestEnv, csv_column};
use std::collections::{BTreeMap, BTreeSet};
use std::process::{Child, Command, Stdio};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const STUDY: &str = "[study]\nwarm_up = 0\nlaps = 3\n\
    [workload.still]\nkind = \"task\"\ncommand = [\"true\"]\n\
    [workload.hall]\nkind = \"task\"\nby_hand = \"turn the hall\"\n\
    [workload.rings]\nkind = \"frames\"\nby_hand = \"fly through the rings\"\n\
    [rig.heron]\n[rig.wren]\n";

/// Enters, imports, merges and notes: so many of each, besides a few runs that follow each other.
const EACH: usize = 48;
const RUNS: usize = 8;

fn started(mut command: Command) -> Child {
    command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap()
}

/// Returns the laps of each session: workload and time.
fn sessions(env: &TestEnv) -> BTreeMap<String, Vec<(String, f64)>> {
    let told = env.lap_ok(&["export", "laps"]);
    let column = |name: &str| csv_column(&told, name);
    let times = column("time_ns");
    let mut all: BTreeMap<String, Vec<(String, f64)>> = BTreeMap::new();
    for ((session, workload), time) in
        column("session").into_iter().zip(column("workload")).zip(times)
    {
        // A pass has frames and no time.
        let nanos: f64 = time.parse().unwrap_or(0.0);
        all.entry(session).or_default().push((workload, nanos / 1e9));
    }
    all
}

#[test]
fn two_hundred_commands_at_once_leave_two_hundred_whole_sessions() {
    let env = TestEnv::with_study(LAP, STUDY);
    let others: Vec<TestEnv> = (0..EACH)
        .map(|other| {
            let env = TestEnv::with_study(LAP, STUDY);
            let time = format!("{}s", 3_000 + other);
            env.lap_ok(&["enter", "hall", "--rig", "wren", &time, "--sure"]);
            env
        })
        .collect();
    env.lap_ok(&["enter", "hall", "--rig", "heron", "1s", "--sure"]);
    let mut commands = Vec::new();
    for (at, other) in others.iter().enumerate() {
        let log = format!("log-{at}.csv");
        // Each says by its frames whose it is.
        let rows = format!("{}.5\n", 10 + at).repeat(200);
        env.write(&log, &format!("frame_ms\n{rows}"));
        let time = format!("{}s", 2_000 + at);
        commands.push(env.command(&["enter", "hall", "--rig", "heron", &time, "--sure"]));
        commands.push(env.command(&["import", &log, "--rig", "heron"]));
        let theirs = other.path().join("logbook.db");
        commands.push(env.command(&["merge", theirs.to_str().unwrap()]));
        commands.push(env.command(&["note", "heron", &format!("seen {at}")]));
    }
    let running: Vec<Child> = commands.into_iter().map(started).collect();
    for _ in 0..RUNS {
        env.lap_ok(&["run", "still", "--rig", "heron"]);
    }
    for child in running {
        let came = child.wait_with_output().unwrap();
        let said = String::from_utf8_lossy(&came.stderr);
        // On a busy machine some wait for long; they are told, and get their turn.
        assert!(came.status.success(), "{said}");
    }
    let sessions = sessions(&env);
    assert_eq!(sessions.len(), 3 * EACH + RUNS + 1);
    let of = |workload: &str| -> Vec<Vec<f64>> {
        let those = sessions.values().filter(|laps| laps[0].0 == workload);
        those.map(|laps| laps.iter().map(|(_, time)| *time).collect()).collect()
    };
    let runs = of("still");
    assert!(runs.len() == RUNS && runs.iter().all(|laps| laps.len() == 3), "{runs:?}");
    // Every other one has one lap: what its writer wrote, and nobody else's.
    let one = |workload| -> BTreeSet<u64> {
        let all = of(workload);
        assert!(all.iter().all(|laps| laps.len() == 1));
        all.iter().map(|laps| laps[0].round() as u64).collect()
    };
    let entered = (0..EACH as u64).flat_map(|at| [2_000 + at, 3_000 + at]).chain([1]);
    assert_eq!(one("hall"), entered.collect());
    let logs = of("rings");
    assert!(logs.len() == EACH && logs.iter().all(|laps| laps.len() == 1));
    let checked = env.lap_ok(&["verify"]);
    assert!(checked.contains(&format!("{EACH} remarks")), "{checked}");
}
