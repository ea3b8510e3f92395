//! The demo: it really runs its laps, and its recorded lab gives the same report wherever and whenever it is made, but for the day on it.
//!
//! Runs for about 55 s on one core of two. The first by name of its program, so that the longest test does not come last.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::{TestEnv, rows_of};
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns the report of a demo's lab made anew, without the day on which it was made.
fn report() -> String {
    let env = TestEnv::new(LAP);
    env.lap_ok(&["demo", "lab", "--recorded-only"]);
    env.lap_ok(&["--study", "lab", "report"]);
    let page = std::fs::read_to_string(env.path().join("report.html")).unwrap();
    let stamp = page.rfind("logbook sealed ").expect("it is stamped");
    let day = page[stamp..].find(" · 20").expect("with a day") + stamp + " · ".len();
    let page = format!("{}DAY{}", &page[..day], &page[day + "2026-11-26".len()..]);
    // The second in its head, and the file that it carries: its seal, by which it is known, is compared.
    let without = |page: String, ahead: &str, behind: &str| {
        let (before, rest) = page.split_once(ahead).expect(ahead);
        format!("{before}{}", rest.split_once(behind).expect(behind).1)
    };
    let page = without(page, "moment&quot;:&quot;", "&quot;");
    without(page, "data:application/gzip;base64,", "\"")
}

#[test]
fn the_demo_and_its_report_are_the_same_every_time() {
    let (one, other) = (report(), report());
    let differs = one.lines().zip(other.lines()).find(|(one, other)| one != other);
    assert!(one == other, "{differs:?}");
    // The answer is in it, its figures, and nothing from elsewhere.
    assert!(one.contains("heron") && one.matches("<svg").count() > 10);
    assert!(!one.contains("src=\"http") && !one.contains("href=\"http"));
}

#[test]
fn the_demo_really_drives_this_machine() {
    let env = TestEnv::new(LAP);
    let came = env.lap(&["demo"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("catalogue-build        5 laps in "), "{came}");
    let json = env.lap_ok(&["--study", "pale-harbour", "compare", "--format", "json"]);
    let json: Value = serde_json::from_str(&json).unwrap();
    let rows = rows_of(&json);
    let ours: Vec<&Value> = rows.iter().filter(|row| row["rig"] == "here").collect();
    // How many layers this machine holds is its own; that it was searched for is not.
    let (loads, ours): (Vec<&Value>, Vec<&Value>) =
        ours.into_iter().partition(|row| row["measure"] == "capacity");
    assert_eq!(loads.len(), 1);
    assert!(came.stderr.contains("sky-layers "), "{came}");
    let shown = came.stdout.lines().count() + came.stderr.lines().count();
    assert!(shown <= 60, "on two screens at most: {came}");
    assert!(env.path().join("pale-harbour/report.html").is_file());
    // A night of two hours, with simulated sensors, is one lap.
    let (nights, ours): (Vec<&Value>, Vec<&Value>) =
        ours.into_iter().partition(|row| row["workload"] == "night-shift");
    assert!(
        nights.iter().any(|row| row["measure"] == "settled rate" && row["counts"]["counted"] == 1)
    );
    assert!(!env.path().join("pale-harbour/.lap/night").exists(), "its sensors are gone");
    assert_eq!(
        ours.len(),
        11,
        "two variants both ways of two workloads, the catalogue, two measures of the flight"
    );
    let driven = |row: &&Value| row["cell"]["typical"].as_f64() > Some(0.0);
    assert!(ours.iter().all(|row| row["counts"]["counted"] == 4 && driven(row)));
    env.assert_nothing_runs();
}
