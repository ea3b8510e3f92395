//! The demo's recorded lab gives the same report wherever and whenever it is made, but for the day on it.
//!
//! Runs for about 4 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::TestEnv;

/// Returns the report of a demo's lab made anew, without the day on which it was made.
fn report() -> String {
    let env = TestEnv::harbour(env!("CARGO_BIN_EXE_lap"));
    env.lap_ok(&["--study", "lab", "report"]);
    let page = std::fs::read_to_string(env.path().join("report.html")).unwrap();
    let stamp = page.rfind("logbook sealed ").expect("it is stamped");
    let day = page[stamp..].find(" · 20").expect("with a day") + stamp + " · ".len();
    format!("{}DAY{}", &page[..day], &page[day + "2026-11-26".len()..])
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
