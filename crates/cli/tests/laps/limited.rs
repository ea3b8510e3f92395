//! What limited a lap, on laps that are really run.
//!
//! Other tests run beside these and take threads of the machine: what is asserted holds whether or not they do. How
//! often each limit is named on a quiet machine is measured by scripts/measure/limits.py.
//!
//! Runs for about 8 s on one core of two.

use honest_lap_testkit::{TestEnv, csv_column};
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns the row of a comparison of three laps of `command`.
fn row(command: &str) -> Value {
    let env = TestEnv::with_workload(LAP, &format!("command = {command:?}"));
    env.lap_ok(&["run", "--laps", "3"]);
    let json = env.lap_ok(&["compare", "--columns", "own threads,use", "--format", "json"]);
    let json: Value = serde_json::from_str(&json).expect("JSON");
    json["tables"][0]["groups"][0]["rows"][0].clone()
}

fn own_threads(row: &Value) -> f64 {
    let columns = row["columns"].as_array().expect("a list");
    let own = columns.iter().find(|column| column["asked"] == "own threads").expect("asked for");
    assert_eq!(own["laps"], 3, "{row:#}");
    own["mean"].as_f64().expect("known")
}

#[test]
fn a_sleep_waits_whoever_is_busy_beside_it() {
    let sleeps = row("sleep 0.6");
    assert_eq!(
        (&sleeps["limited"]["by"], &sleeps["limited"]["of"]),
        (&"waiting".into(), &3.into())
    );
    assert!(own_threads(&sleeps) < 0.1, "{sleeps:#}");
}

#[test]
fn one_busy_thread_is_never_told_as_more() {
    let busy = row("timeout 0.7 sh -c 'while :; do :; done'; true");
    assert!(own_threads(&busy) < 1.1, "{busy:#}");
    // A neighbour may have taken some of it.
    let by = busy["limited"]["by"].as_str();
    assert!(by.is_none_or(|by| ["one-thread", "contention"].contains(&by)), "{busy:#}");
}

#[test]
fn columns_stand_in_every_form_and_unknown_ones_are_refused_with_those_that_there_are() {
    let env = TestEnv::with_workload(LAP, "command = \"sleep 0.1\"\nwork = \"4 Mpixel\"");
    env.lap_ok(&["run", "--laps", "3"]);
    let csv = env.lap_ok(&["compare", "--columns", "use,own threads", "--format", "csv"]);
    let limited: Vec<String> = csv_column(&csv, "limited_by");
    // The kernel counts waits for a disk for the whole machine: a neighbour's may stand here for a lap that slept.
    let by = limited.first().map(String::as_str).unwrap_or_default();
    assert!(["waiting", "disk-bound"].contains(&by), "{csv}");
    for column in ["use_percent", "own_threads"] {
        let values: Vec<String> = csv_column(&csv, column);
        assert!(values[0].parse::<f64>().is_ok_and(|value| value >= 0.0), "{csv}");
    }
    let text = env.lap_ok(&["compare", "--explain", "--columns", "own threads"]);
    assert!(text.contains("own threads") && text.contains(&format!("{by}: ")), "{text}");
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
