//! The demo's made-up year: twelve rigs in a store that is there, shown from it.

use super::LAP;
use honest_lap_testkit::{Postgres, TestEnv};

#[test]
fn a_made_up_year_fills_a_store_and_is_shown_from_it() {
    let server = Postgres::start(&[]);
    let env = TestEnv::new(LAP);
    let address = server.address("keeper");
    let came = env.lap_at(80, &["demo", "lab", "--store", &address]);
    assert_eq!(came.status, Some(0), "{came}");
    let sent = "sent 4140 laps in 138 sessions: a made-up year of twelve rigs";
    assert!(
        came.stderr.contains("made a store (keeper at ") && came.stderr.contains(sent),
        "{came}"
    );
    assert!(!came.stdout.contains("stale"), "its programs are the same all year: {came}");
    for rig in ["avocet", "egret", "osprey", "teal", "wren"] {
        assert!(came.stdout.contains(rig), "{rig}: {came}");
    }
    assert!(came.stdout.lines().count() <= 26, "{came}");
    assert!(came.stdout.lines().all(|line| line.chars().count() <= 80), "{came}");
    let count = |what: &str| {
        server.sql("keeper", "laps", &format!("SELECT count(*) FROM honest_lap.{what}"))
    };
    assert_eq!((count("session"), count("lap")), ("138".to_owned(), "4140".to_owned()));
    // Nothing is recorded here, and the study knows where everything is.
    assert!(!env.path().join("lab/logbook.db").exists());
    let local = env.lap(&["--study", "lab", "compare"]);
    assert!(local.status == Some(2) && local.stderr.contains("`--store` reads"), "{local}");
    let table =
        env.lap_ok(&["--study", "lab", "compare", "dome-still", "--store", "--near", "heron"]);
    assert!(table.contains("gannet"), "{table}");
    // What is to be asked next reads the same laps.
    let doubts = env.lap(&["--study", "lab", "doubts", "--store"]).stdout;
    assert!(doubts.contains("lap doubts --store --explain"), "{doubts}");
    let whole = env.lap_ok(&["--study", "lab", "compare", "--store"]);
    let more = "More: lap compare dome-still --store · lap doubts --store · lap report --store";
    assert!(whole.contains(more) && came.stdout.contains(more), "{whole}\n{came}");
    let named = env.lap_ok(&["--study", "lab", "compare", &format!("--store={address}")]);
    assert!(named.contains(more), "the study names it: {named}");
    let home = env.lap(&["--study", "lab", "sync"]);
    assert!(home.stderr.contains("fetched: 4140 new laps in 138 new sessions"), "{home}");
    env.lap_ok(&["--study", "lab", "verify"]);
    let again = env.lap(&["demo", "other", "--store", &address]);
    assert!(again.stderr.contains("it has the made-up year already"), "{again}");
    let nowhere = env.lap(&["demo", "third", "--store", "postgresql://keeper@127.0.0.1:1/laps"]);
    assert_eq!(nowhere.status, Some(3), "{nowhere}");
    assert!(!env.path().join("third").exists(), "nothing is made before the store is reached");
}
