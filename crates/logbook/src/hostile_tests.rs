//! Logbooks that people who mean no good would bring: each is refused with one sentence, soon, and leaves ours as it was.
//!
//! Their seals hold, where that is how they would be made: whoever writes a file can seal it.

use crate::frames_tests::recorded;
use crate::mutation_tests::{behind_triggers, careless, filled};
use crate::seal::{seal_lap, seal_session};
use crate::{Logbook, Visitor};
use rusqlite::Connection;
use std::path::Path;
use std::time::{Duration, Instant};

/// Seals everything in the file anew, as its author would.
fn reseal(db: &Connection) {
    db.execute_batch("DELETE FROM seal; DELETE FROM signature").unwrap();
    let ids = |query: &str| -> Vec<(i64, i64, u32)> {
        let mut rows = db.prepare(query).unwrap();
        let rows = rows.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?))).unwrap();
        rows.collect::<Result<_, _>>().unwrap()
    };
    for (session, ..) in ids("SELECT id, 0, 0 FROM session") {
        seal_session(db, session).unwrap();
    }
    for (session, lap, number) in
        ids("SELECT session, id, number FROM lap ORDER BY session, number")
    {
        seal_lap(db, session, number, lap).unwrap();
    }
}

/// What is done to a file, and a word of the sentence that refuses it.
const SEALED: [(&str, &str); 25] = [
    ("UPDATE session SET rig = '../../etc' WHERE id = 1", "name of a rig"),
    ("UPDATE session SET rig = '' WHERE id = 1", "name of a rig"),
    ("UPDATE session SET rig = 'a' || char(10) || 'b' WHERE id = 1", "name of a rig"),
    ("UPDATE session SET rig = printf('%.200c', 'x') WHERE id = 1", "name of a rig"),
    ("UPDATE session SET number = 4294967295", "number of session"),
    ("UPDATE session SET number = 9223372036854775807 WHERE id = 1", "number"),
    ("UPDATE session SET found = '[' WHERE id = 1", "cannot read"),
    ("UPDATE session SET found = printf('%.90000c', '[') WHERE id = 1", "cannot read"),
    ("UPDATE session SET versions = '{}' WHERE id = 1", "cannot be read"),
    ("UPDATE session SET about = '7' WHERE id = 1", "cannot be read"),
    ("UPDATE task SET workload = '../evil' WHERE id = 1", "name of a workload"),
    ("UPDATE task SET workload = char(27) || '[2J' WHERE id = 1", "name of a workload"),
    ("UPDATE task SET form = '{}' WHERE id = 1", "cannot be read"),
    ("UPDATE variant SET settings = '[[\"../x\", \"1\"]]' WHERE id = 1", "setting of a variant"),
    (
        "UPDATE variant SET settings = '[[\"x\", \"a\\u0007\"]]' WHERE id = 1",
        "setting of a variant",
    ),
    ("UPDATE variant SET settings = 'null' WHERE id = 1", "cannot be read"),
    ("UPDATE lap SET outcome = 'fine' WHERE id = 1", "outcome"),
    ("UPDATE lap SET round = -1 WHERE id = 1", "cannot read"),
    ("UPDATE lap_detail SET conditions = 'x' WHERE lap = 1", "cannot be read"),
    ("UPDATE lap_detail SET traces = '{\"packed\": [{}]}' WHERE lap = 1", "cannot be read"),
    (
        "UPDATE lap_detail SET readings = '[{\"name\": \"\\u001b[31m\", \"unit\": \"\", \"better\": \"less\", \"value\": 1, \"seen\": \"\"}]' WHERE lap = 1",
        "name of a measure",
    ),
    ("UPDATE pass SET about = '{}' WHERE lap = 3", "cannot be read"),
    (
        "UPDATE chunk SET packed = x'00', sha256 = '6e340b9cffb37a989ca544e6bb780a2c78901d3fb33738768511a30617afa01d' WHERE series = 'shown' AND part = 0",
        "frames",
    ),
    ("UPDATE chunk SET count = 65537 WHERE series = 'shown' AND part = 0", "frames"),
    ("DELETE FROM chunk WHERE series = 'graphics' AND part = 1", "frames"),
];

/// What is put into a file without a seal of its own.
const UNSEALED: [(&str, &str); 15] = [
    ("UPDATE lap SET number = 4294967296 WHERE id = 4", "cannot"),
    (
        "INSERT INTO lap SELECT 900, session, 90, task, variant, round, warm_up, outcome, 1, 1, 1 FROM lap WHERE id = 1",
        "no seal accounts for",
    ),
    ("INSERT INTO task (workload, form) VALUES ('still', '{}')", "no seal accounts for"),
    (
        "INSERT INTO chunk (lap, series, part, count, sha256, packed) VALUES (1, 'shown', 0, 1, 'x', x'00')",
        "seal is broken",
    ),
    (
        "INSERT INTO chunk (lap, series, part, count, sha256, packed) VALUES (77, 'shown', 0, 1, 'x', x'00')",
        "no seal accounts for",
    ),
    ("UPDATE chunk SET packed = x'00' WHERE series = 'shown' AND part = 0", "seal is broken"),
    ("UPDATE signature SET key = printf('%.64c', '0') WHERE session = 1", "signature"),
    ("UPDATE signature SET number = 2 WHERE session = 1", "signature"),
    (
        "INSERT INTO seal (session, number, seal, form) VALUES (99, 0, 'x', 5)",
        "no seal accounts for",
    ),
    ("UPDATE remark SET text = printf('%.90000c', 'x') WHERE mark = 'r-a'", "remark"),
    ("UPDATE remark SET subject = 'x' WHERE mark = 'r-a'", "remark"),
    ("UPDATE remark SET before = 'x' WHERE mark = 'r-b'", "remark"),
    ("DELETE FROM lap_detail WHERE lap = 2", "no seal accounts for"),
    ("UPDATE lap SET wall_ns = 1 WHERE id = 2", "seal is broken"),
    ("UPDATE session SET seed = 3 WHERE id = 2", "seal is broken"),
];

fn refused(dir: &Path, what: &str) -> String {
    let ours = dir.join("ours.db");
    let before = std::fs::read(&ours).unwrap();
    let begun = Instant::now();
    let refused = Visitor::check(&dir.join("theirs.db"), &dir.join("copy.db"))
        .and_then(|visitor| Logbook::open_to_write(&ours).unwrap().take_in(&visitor));
    let refused = refused.err().map(|err| err.to_string());
    // Far more than any of them takes, and less than it takes to go round in circles.
    assert!(begun.elapsed() < Duration::from_secs(20), "{what}");
    assert_eq!(std::fs::read(&ours).unwrap(), before, "{what}");
    let refused = refused.unwrap_or_else(|| panic!("imported: {what}"));
    assert!(!refused.contains('\n') && refused.len() < 600, "one sentence: {refused}");
    refused
}

#[test]
fn forty_hostile_logbooks_are_refused_each_with_one_sentence() {
    let dir = tempfile::tempdir().unwrap();
    let (ours, theirs) = (dir.path().join("ours.db"), dir.path().join("theirs.db"));
    filled(&ours);
    let whole = std::fs::read(&ours).unwrap();
    for (sealed, cases) in [(true, &SEALED[..]), (false, &UNSEALED[..])] {
        for (change, word) in cases {
            std::fs::write(&theirs, &whole).unwrap();
            let db = careless(&theirs);
            behind_triggers(&db, || {
                db.execute_batch(change).unwrap_or_else(|err| panic!("{change}: {err}"));
                if sealed {
                    reseal(&db);
                }
            });
            drop(db);
            let said = refused(dir.path(), change);
            assert!(said.contains(word), "{change}: {said}");
        }
    }
    // Not even a database, or only half of one.
    let cut = |bytes: usize| whole[..bytes].to_vec();
    let flipped = |at: usize| {
        let mut bytes = whole.clone();
        bytes[at..at + 64].fill(0xff);
        bytes
    };
    for (what, bytes) in [
        ("nothing", Vec::new()),
        ("a header", cut(100)),
        ("half", cut(whole.len() / 2 / 4096 * 4096)),
        ("a torn page", cut(whole.len() - 1_000)),
        ("another header", flipped(0)),
        ("another page", flipped(4096 * 3)),
    ] {
        std::fs::write(&theirs, &bytes).unwrap();
        if what == "nothing" {
            let visitor = Visitor::check(&theirs, &dir.path().join("copy.db")).unwrap();
            let taken = Logbook::open_to_write(&ours).unwrap().take_in(&visitor).unwrap();
            assert_eq!(taken, crate::Merged::default(), "an empty file holds nothing");
            continue;
        }
        refused(dir.path(), what);
    }
}

#[test]
fn a_file_that_unpacks_to_gigabytes_is_refused_before_it_does() {
    let dir = tempfile::tempdir().unwrap();
    let (ours, theirs) = (dir.path().join("ours.db"), dir.path().join("theirs.db"));
    filled(&ours);
    filled(&theirs);
    let db = careless(&theirs);
    let part = honest_lap_packing::pack(&vec![16_666_667; honest_lap_packing::PART]);
    let sha256 = crate::hash::sha256(&part);
    let told = recorded(3).about;
    behind_triggers(&db, || {
        db.execute_batch("BEGIN; DELETE FROM chunk").unwrap();
        let put = "INSERT INTO chunk (lap, series, part, count, sha256, packed) VALUES (3, 'shown', ?1, 65536, ?3, ?2)";
        for at in 0..60_000 {
            db.execute(put, rusqlite::params![at, part, sha256]).unwrap();
        }
        let about = serde_json::to_string(&told).unwrap();
        db.execute("UPDATE pass SET about = ?1 WHERE lap = 3", [about]).unwrap();
        db.execute("DELETE FROM pass WHERE lap <> 3", []).unwrap();
        reseal(&db);
        db.execute_batch("COMMIT").unwrap();
    });
    drop(db);
    let said = refused(dir.path(), "a bomb");
    assert!(said.contains("hold 39321") && said.contains("frames and samples"), "{said}");
    assert!(std::fs::metadata(&theirs).unwrap().len() < 40 << 20);
}
