//! Logbooks that were run apart and brought home.
//!
//! Runs for about 3 s on one core of two.

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const STUDY: &str =
    "[study]\nwarm_up = 0\n[workload.w]\nkind = \"task\"\ncommand = [\"true\"]\nlaps = 3\n";

/// A machine of its own: a simulated one with this number, and the study's folder copied to it.
fn rig(name: &str, id: &str) -> TestEnv {
    let env = TestEnv::with_study(LAP, STUDY);
    env.lap_ok(&["stand-in", "machine", "--out", "sim"]);
    env.write("sim/etc/machine-id", id);
    env.lap_ok(&["run", "--rig", name, "--machine-root", "sim"]);
    env
}

fn logbook(env: &TestEnv) -> String {
    env.path().join("logbook.db").display().to_string()
}

#[test]
fn rigs_timed_apart_are_compared_at_home() {
    let (home, wren, plover) = (rig("heron", "1"), rig("wren", "2"), rig("plover", "3"));
    let before = std::fs::read(home.path().join("logbook.db")).unwrap();
    let seen = home.lap(&["merge", &logbook(&wren), "--preview"]);
    assert!(seen.stderr.contains("3 new laps in 1 new session"), "{seen}");
    assert!(seen.stderr.contains("nothing was recorded"), "{seen}");
    assert_eq!(std::fs::read(home.path().join("logbook.db")).unwrap(), before);
    let came = home.lap(&["merge", &logbook(&wren), plover.path().to_str().unwrap()]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("in all: 6 new laps in 2 new sessions"), "{came}");
    let compared = home.lap_ok(&["compare"]);
    for rig in ["heron", "wren", "plover"] {
        assert!(compared.contains(rig), "{compared}");
    }
    assert!(home.lap(&["merge", &logbook(&wren)]).stderr.contains("nothing new"));
    assert!(home.lap_ok(&["verify"]).contains("Nothing has changed: 9 laps in 3 sessions"));
    assert!(home.lap_ok(&["show", "wren-1.2"]).contains("counted"));
}

#[test]
fn one_name_for_two_machines_is_asked_about_and_never_mixed() {
    let (home, other) = (rig("heron", "1"), rig("heron", "2"));
    let asked = home.lap(&["merge", &logbook(&other)]);
    assert_eq!(asked.status, Some(2));
    assert!(asked.stderr.contains("rig heron is one machine here and another in"), "{asked}");
    assert!(home.lap_ok(&["show"]).contains("1 session on 1 rig"), "nothing was recorded");
    home.lap_ok(&["merge", &logbook(&other), "--call", "heron=heron-b"]);
    assert!(home.lap_ok(&["compare"]).contains("heron-b"));
    let same = rig("heron", "3");
    home.lap_ok(&["merge", &logbook(&same), "--same", "heron"]);
    assert!(home.lap_ok(&["show", "heron"]).contains("2 sessions on 1 rig"));
    assert!(home.lap_ok(&["verify"]).contains("Nothing has changed"));
}

#[test]
fn a_logbook_that_was_tampered_with_is_refused_and_named() {
    let (home, other) = (rig("heron", "1"), rig("wren", "2"));
    let db = rusqlite::Connection::open(logbook(&other)).unwrap();
    let keeps: String = db
        .query_row("SELECT sql FROM sqlite_schema WHERE name = 'lap_keeps'", [], |row| row.get(0))
        .unwrap();
    db.execute_batch(&format!(
        "DROP TRIGGER lap_keeps; UPDATE lap SET wall_ns = 1 WHERE number = 2; {keeps}"
    ))
    .unwrap();
    drop(db);
    let refused = home.lap(&["merge", &logbook(&other)]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.stderr.contains("lap wren-1.2 has changed"), "{refused}");
    home.write("notes.db", "not a logbook at all, though it is long enough to be looked at");
    assert!(home.lap(&["merge", "notes.db"]).stderr.contains("is not a logbook"));
    assert!(home.lap_ok(&["show"]).contains("1 session on 1 rig"));
}
