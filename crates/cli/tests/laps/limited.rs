//! What limited a lap, on laps that are really run.
//!
//! Other tests run beside these and take threads of the machine: what is asserted holds whether or not they do. How
//! often each limit is named on a quiet machine is measured by scripts/measure/limits.py.
//!
//! Runs for about 11 s on one core of two.

use honest_lap_testkit::{TestEnv, csv_column};
use serde_json::Value;
use std::fs::File;
use std::io::Write;
use std::sync::atomic::{AtomicBool, Ordering};
use tempfile::TempDir;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns the row of a comparison of three laps of `command`.
fn row(command: &str) -> Value {
    let env = TestEnv::with_workload(LAP, &format!("command = {command:?}"));
    env.lap_ok(&["run", "--laps", "3"]);
    let columns = "own threads,written to disks";
    let json = env.lap_ok(&["compare", "--columns", columns, "--format", "json"]);
    let json: Value = serde_json::from_str(&json).expect("JSON");
    json["tables"][0]["groups"][0]["rows"][0].clone()
}

fn mean(row: &Value, asked: &str) -> f64 {
    let columns = row["columns"].as_array().expect("a list");
    let column = columns.iter().find(|column| column["asked"] == asked).expect("asked for");
    assert_eq!(column["laps"], 3, "{row:#}");
    column["mean"].as_f64().expect("known")
}

#[test]
fn a_sleep_waits_whoever_is_busy_beside_it() {
    let sleeps = row("sleep 0.6");
    assert_eq!(
        (&sleeps["limited"]["by"], &sleeps["limited"]["of"]),
        (&"waiting".into(), &3.into())
    );
    assert!(mean(&sleeps, "own threads") < 0.1, "{sleeps:#}");
}

#[test]
fn one_busy_thread_is_never_told_as_more() {
    let busy = row("timeout 0.7 sh -c 'while :; do :; done'; true");
    assert!(mean(&busy, "own threads") < 1.1, "{busy:#}");
    // A neighbour may have taken some of it.
    let by = busy["limited"]["by"].as_str();
    assert!(by.is_none_or(|by| ["one-thread", "contention"].contains(&by)), "{busy:#}");
}

#[test]
fn what_a_neighbour_writes_limits_nobody_else() {
    const COUNT: u64 = 200;
    // On a disk, as the build is: the folder of other tests may be in memory.
    let on_disk = TempDir::new_in(env!("CARGO_TARGET_TMPDIR")).expect("a folder");
    let copy = on_disk.path().join("copy");
    let writes = row(&format!(
        "dd if=/dev/zero of={} bs=16k count={COUNT} oflag=dsync status=none",
        copy.display()
    ));
    let written = mean(&writes, "written to disks") * 1e6;
    let all = (COUNT * (16 << 10)) as f64;
    assert!(written >= all && written < 2.0 * all, "{writes:#}");

    let over = AtomicBool::new(false);
    let sleeps = std::thread::scope(|scope| {
        scope.spawn(|| {
            let mut file = File::create(&copy).expect("a file");
            while !over.load(Ordering::Relaxed) {
                file.write_all(&[0; 16 << 10]).and_then(|()| file.sync_all()).expect("written");
            }
        });
        let sleeps = row("sleep 0.6");
        over.store(true, Ordering::Relaxed);
        sleeps
    });
    assert_eq!(sleeps["limited"]["by"], "waiting", "{sleeps:#}");
    assert!(mean(&sleeps, "written to disks").abs() < 1e-9, "{sleeps:#}");
}

#[test]
fn columns_stand_in_every_form_and_unknown_ones_are_refused_with_those_that_there_are() {
    let env = TestEnv::with_workload(LAP, "command = \"sleep 0.1\"\nwork = \"4 Mpixel\"");
    env.lap_ok(&["run", "--laps", "3"]);
    let csv = env.lap_ok(&["compare", "--columns", "use,own threads", "--format", "csv"]);
    let limited: Vec<String> = csv_column(&csv, "limited_by");
    assert_eq!(limited, ["waiting"], "{csv}");
    for column in ["use_percent", "own_threads"] {
        let values: Vec<String> = csv_column(&csv, column);
        assert!(values[0].parse::<f64>().is_ok_and(|value| value >= 0.0), "{csv}");
    }
    let text = env.lap_ok(&["compare", "--explain", "--columns", "own threads"]);
    assert!(text.contains("own threads") && text.contains("waiting: "), "{text}");
    let unknown = env.lap(&["compare", "--columns", "mood"]);
    assert_eq!(unknown.status, Some(2));
    assert!(
        unknown.stderr.contains("`mood`") && unknown.stderr.contains("own threads"),
        "{unknown}"
    );
    let across = env.lap(&["compare", "--across", "threads", "--columns", "use"]);
    assert!(across.stderr.contains("leave --across out"), "{across}");
    let measured = env.lap_ok(&["compare", "--measure", "own threads"]);
    assert!(measured.contains("w · own threads"), "{measured}");
}
