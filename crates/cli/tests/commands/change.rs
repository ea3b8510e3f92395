//! Before and after a change, told by its day.
//!
//! Runs for about 1 s on two cores.

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const STUDY: &str = "[workload.tunnel]\nkind = \"task\"\nby_hand = \"fly it\"\n[rig.heron]\n";

/// The later days are typed first.
const SHEETS: [&str; 2] = [
    "rig,date,tunnel [s]\nheron,2026-05-02,90\nheron,2026-05-02,91\nheron,2026-05-20,90.5\n",
    "rig,date,tunnel [s]\nheron,2026-02-01,100\nheron,2026-02-01,101\nheron,2026-02-08,100.5\n",
];

#[test]
fn a_day_stands_for_the_sessions_that_were_measured_on_either_side_of_it() {
    let env = TestEnv::with_study(LAP, STUDY);
    for sheet in SHEETS {
        env.write("old.csv", sheet);
        env.lap_ok(&["enter", "--table", "old.csv"]);
    }
    let by_day = ["compare", "--before", "2026-03-14", "--after", "2026-03-14"];
    let said = env.lap_ok(&by_day);
    assert!(said.contains("Against before: after faster."), "{said}");
    let one_by_one = ["compare", "--before", "heron-3,heron-4", "--after", "heron-1,heron-2"];
    assert_eq!(env.lap_ok(&one_by_one), said, "and is the same as naming them");
    env.lap_ok(&["plot", "--before", "2026-03-14", "--after", "2026-03-14"]);
    assert!(env.path().join("heron-change.svg").exists());
    env.write("study.toml", &format!("{STUDY}[rig.wren]\n"));
    env.lap_ok(&["enter", "tunnel", "--rig", "wren", "90 s", "--on", "2026-05-02"]);
    let refused = |args: &[&str], why: &str, remedy: &str| {
        let came = env.lap(args);
        assert_eq!(came.status, Some(2), "{came}");
        assert!(came.stderr.contains(why) && came.stderr.contains(remedy), "{came}");
    };
    refused(&by_day, "names no rig", "one of heron, wren");
    let named = [&by_day[..], &["--rig", "heron"]].concat();
    assert_eq!(env.lap_ok(&named), said, "days of other rigs are no part of it");
    let none = ["compare", "--rig", "heron", "--before", "2026-02-01", "--after", "2026-02-01"];
    refused(
        &none,
        "has no session that was measured before 2026-02-01",
        "2026-02-01 to 2026-05-20",
    );
    let turned = ["compare", "--before", "heron-1", "--after", "heron-3"];
    refused(&turned, "measured later", "exchange the two");
    refused(&["compare", "--before", "2026-02-30", "--after", "heron-1"], "no calendar has it", "");
    refused(&["compare", "--before", "hern", "--after", "heron-1"], "is no session", "2026-03-14");
}
