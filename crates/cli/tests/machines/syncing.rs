//! What is sent comes back as it was, again changes nothing, and what differs is refused.

use super::{LAP, empty, harbour, lab, sync, typed};
use honest_lap_testkit::{Postgres, TestEnv};
use std::fs;

#[test]
fn a_whole_lab_comes_back_from_the_store_to_the_last_digit() {
    let server = Postgres::start(&[]);
    let env = harbour();
    let said = sync(&env, &server, "keeper");
    assert!(said.contains("made a store: keeper at 127.0.0.1, database laps"), "{said}");
    assert!(!said.contains("sent: nothing new") && said.contains("fetched: nothing new"), "{said}");
    let again = sync(&env, &server, "keeper");
    assert!(
        again.contains("sent: nothing new") && again.contains("fetched: nothing new"),
        "{again}"
    );
    let home = empty(&env);
    let came = sync(&home, &server, "keeper");
    assert!(came.contains("sent: nothing new") && !came.contains("fetched: nothing new"), "{came}");
    for args in [
        &["compare", "--format", "json"][..],
        &["doubts", "--format", "json"],
        &["export", "laps"],
        &["export", "sums"],
        &["show"],
    ] {
        let said = |of: &TestEnv| of.lap(args).stdout;
        assert_eq!(said(&home), said(&env), "{args:?}");
    }
    home.lap_ok(&["verify"]);
    // Records are there as they were sealed, byte for byte: every seal is the logbook's own.
    let theirs = server.sql("keeper", "laps", "SELECT seal FROM honest_lap.seal ORDER BY seal");
    let seals = |env: &TestEnv| {
        let db = rusqlite::Connection::open(env.path().join("logbook.db")).unwrap();
        let mut all = db.prepare("SELECT seal FROM seal ORDER BY seal").unwrap();
        let all = all.query_map([], |row| row.get::<_, String>(0)).unwrap();
        all.collect::<Result<Vec<_>, _>>().unwrap().join("\n")
    };
    assert_eq!(theirs, seals(&env));
    assert_eq!(theirs, seals(&home));
    // A year later: a lap more, and a remark, and both find their way.
    env.lap_ok(&["note", "heron", "has a new fan"]);
    let more = sync(&env, &server, "keeper");
    assert!(more.contains("1 new remark"), "{more}");
    let came = sync(&home, &server, "keeper");
    assert!(came.contains("fetched: 0 new laps in 0 new sessions, 1 new remark"), "{came}");
    assert!(home.lap_ok(&["note"]).contains("has a new fan"));
}

#[test]
fn frames_are_kept_once_under_their_hash() {
    let server = Postgres::start(&[]);
    let env = harbour();
    sync(&env, &server, "keeper");
    let count = |what: &str| {
        server.sql("keeper", "laps", &format!("SELECT count(*) FROM honest_lap.{what}"))
    };
    let (hashes, packed) = (count("chunk"), count("packed"));
    assert_eq!(
        server.sql("keeper", "laps", "SELECT count(DISTINCT sha256) FROM honest_lap.chunk"),
        packed
    );
    assert!(packed.parse::<u32>().unwrap() > 20, "{packed} of {hashes}");
    // Sent again, nothing of it goes a second time.
    let twin = "SELECT sum(length(packed)) FROM honest_lap.packed";
    let bytes = server.sql("keeper", "laps", twin);
    assert!(sync(&env, &server, "keeper").contains("sent: nothing new"));
    assert_eq!(server.sql("keeper", "laps", twin), bytes);
}

#[test]
fn a_preview_says_what_would_go_and_come_and_does_neither() {
    let server = Postgres::start(&[]);
    let env = typed("heron", 3, 2);
    let address = server.address("keeper");
    let none = env.lap(&["sync", "--preview", "--store", &address]);
    assert!(none.status == Some(2) && none.stderr.contains("there is no store"), "{none}");
    env.lap_ok(&["store", "init", "--store", &address]);
    let said = env.lap(&["sync", "--preview", "--store", &address]);
    assert!(said.stderr.contains("would be sent: 6 new laps in 2 new sessions"), "{said}");
    assert_eq!(server.sql("keeper", "laps", "SELECT count(*) FROM honest_lap.lap"), "0");
    // The study names the store; the folder that names none says what to do.
    let plain = env.lap(&["sync"]);
    assert!(plain.status == Some(2) && plain.stderr.contains("no store is named"), "{plain}");
    let study = fs::read_to_string(env.path().join("study.toml")).unwrap();
    env.write("study.toml", &format!("[study]\nstore = \"{address}\"\n{study}"));
    assert!(env.lap(&["sync"]).stderr.contains("sent: 6 new laps"));
    env.write(
        "study.toml",
        &format!("[study]\nstore = \"{}\"\n{study}", address.replace("keeper@", "keeper:secret@")),
    );
    let told = env.lap(&["sync"]);
    assert!(told.status == Some(2) && told.stderr.contains("everyone reads that file"), "{told}");
    assert!(!told.stderr.contains("secret"), "{told}");
}

#[test]
fn what_went_on_in_two_ways_is_refused_on_both_sides_and_named() {
    let server = Postgres::start(&[]);
    let env = TestEnv::with_workload(LAP, "laps = 2\ncommand = [\"true\"]");
    env.lap_ok(&["run", "--rig", "heron"]);
    // Another folder with the same session, which went on otherwise.
    let twin = empty(&env);
    fs::copy(env.path().join("logbook.db"), twin.path().join("logbook.db")).unwrap();
    sync(&env, &server, "keeper");
    let db = rusqlite::Connection::open(twin.path().join("logbook.db")).unwrap();
    db.execute_batch(
        "DROP TRIGGER seal_keeps; UPDATE seal SET seal = CASE substr(seal, 1, 1) WHEN '0' THEN '1' ELSE '0' END || substr(seal, 2) WHERE number = 2;",
    )
    .unwrap();
    // Nor does a signature that it lacks bring the session here.
    let stays: String = db
        .query_row("SELECT sql FROM sqlite_schema WHERE name = 'signature_stays'", [], |row| {
            row.get(0)
        })
        .unwrap();
    db.execute_batch(&format!("DROP TRIGGER signature_stays; DELETE FROM signature; {stays};"))
        .unwrap();
    let keeps = "CREATE TRIGGER seal_keeps BEFORE UPDATE ON seal BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;";
    db.execute_batch(keeps).unwrap();
    drop(db);
    let before = fs::read(twin.path().join("logbook.db")).unwrap();
    let came = twin.lap(&["sync", "--store", &server.address("keeper")]);
    assert_eq!(came.status, Some(1), "{came}");
    assert!(came.stderr.contains("refused: heron-1 went on in two ways"), "{came}");
    assert_eq!(fs::read(twin.path().join("logbook.db")).unwrap(), before);
    assert_eq!(server.sql("keeper", "laps", "SELECT count(*) FROM honest_lap.lap"), "2");
}

#[test]
fn twelve_rigs_at_once_lose_nothing_and_have_nothing_twice() {
    let names: Vec<String> = (1..=12).map(|rig| format!("rig-{rig:02}")).collect();
    let names: Vec<&str> = names.iter().map(String::as_str).collect();
    let server = Postgres::start(&names);
    lab(&server, &names);
    let rigs: Vec<TestEnv> = names.iter().map(|rig| typed(rig, 40, 6)).collect();
    std::thread::scope(|scope| {
        for (env, rig) in rigs.iter().zip(&names) {
            let server = &server;
            // Twice at once each: the second has nothing to add, or waits for the first.
            for _ in 0..2 {
                scope.spawn(move || env.lap(&["sync", "--store", &server.address(rig)]));
            }
        }
    });
    for (env, rig) in rigs.iter().zip(&names) {
        sync(env, &server, rig);
    }
    let count = |what: &str| {
        server.sql("keeper", "laps", &format!("SELECT count(*) FROM honest_lap.{what}"))
    };
    assert_eq!((count("session"), count("lap")), ("72".to_owned(), "2880".to_owned()));
    sync(&rigs[0], &server, names[0]);
    assert!(rigs[0].lap_ok(&["verify"]).contains("2880 laps in 72 sessions"));
}
