//! Everything that can be done to a logbook behind the tool's back, and everything harmless: the one is found, the other not.
//!
//! Runs 200 of the one and 50 of the other; `LAP_MUTATIONS=1000` runs as many of both.

use crate::frames_tests::recorded;
use crate::tests::{begin, body, lap, remark, task};
use crate::{Logbook, Visitor};
use honest_lap_core::record::{LapBody, RemarkKind, Repeat, Settings, Subject};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use rusqlite::Connection;
use rusqlite::types::Value;
use std::path::Path;

fn rounds() -> u64 {
    std::env::var("LAP_MUTATIONS").ok().and_then(|text| text.parse().ok()).unwrap_or(200)
}

/// Writes a logbook with something in every table.
pub(crate) fn filled(path: &Path) {
    let mut logbook = Logbook::create_or_open(path).unwrap();
    for (rig, mark) in [("heron", "a"), ("wren", "b"), ("heron", "c")] {
        let session = begin(&mut logbook, rig, mark);
        for number in 1..=4_u32 {
            let settings = Settings::new(vec![("threads".into(), (number % 2).to_string())]);
            // One of them in two parts.
            let frames = if mark == "a" { 66_000 } else { 300 };
            let pass = (number == 3).then(|| Box::new(recorded(frames)));
            let repeat = |at: u64| Repeat { began: Nanos(at * 1_000), took: Nanos(900 + at) };
            let repeats = if number == 4 { (0..50).map(repeat).collect() } else { Vec::new() };
            let body = LapBody { pass, repeats, ..body() };
            let work = task(if number > 2 { "rings" } else { "render" });
            let lap = lap(number, ("still", &work), &settings, &body);
            logbook.append_lap(&session, &lap).unwrap();
        }
        let subject = Subject::Lap(session.lap(1));
        let aside = remark(RemarkKind::SetAside, subject, "a door was open");
        logbook.append_remark(&aside, &format!("r-{mark}")).unwrap();
        logbook.sign(&[&session], &[7; 32]).unwrap();
    }
}

/// Returns whether anything is amiss with the logbook at `path`, in words.
fn amiss(path: &Path, seal: &str) -> Option<String> {
    let logbook = match Logbook::open(path) {
        Ok(logbook) => logbook,
        Err(refused) => return Some(refused.to_string()),
    };
    let found = || -> Result<Option<String>, crate::LogbookError> {
        let (sessions, remarks) = (logbook.verify()?, logbook.verify_remarks()?);
        let broken = sessions.iter().find_map(|session| session.broken.as_ref());
        let stray = logbook.strays()?.into_iter().next();
        let fault = logbook.faults()?.into_iter().next();
        // Without a seal that was kept elsewhere, nothing shows that the end was cut off.
        let cut =
            (!logbook.has_seal(seal, (&sessions, &remarks))?).then(|| "another seal".to_owned());
        Ok(broken.map(ToString::to_string).or(remarks.broken).or(stray).or(fault).or(cut))
    };
    found().unwrap_or_else(|err| Some(err.to_string()))
}

fn seal(path: &Path) -> String {
    let logbook = Logbook::open(path).unwrap();
    logbook.seal().unwrap()
}

/// Opens the file as anybody may who does not care for its rules.
pub(crate) fn careless(path: &Path) -> Connection {
    let db = Connection::open(path).unwrap();
    db.execute_batch("PRAGMA foreign_keys = OFF; PRAGMA ignore_check_constraints = ON; PRAGMA synchronous = OFF;").unwrap();
    db
}

/// Runs `work` without the triggers in its way, and puts them back.
pub(crate) fn behind_triggers<T>(db: &Connection, work: impl FnOnce() -> T) -> T {
    let mut all = db.prepare("SELECT name, sql FROM sqlite_schema WHERE type = 'trigger'").unwrap();
    let triggers: Vec<(String, String)> = all
        .query_map([], |row| Ok((row.get(0)?, row.get(1)?)))
        .unwrap()
        .collect::<Result<_, _>>()
        .unwrap();
    for (name, _) in &triggers {
        db.execute_batch(&format!("DROP TRIGGER {name}")).unwrap();
    }
    let made = work();
    for (_, sql) in &triggers {
        db.execute_batch(sql).unwrap();
    }
    made
}

const TABLES: [&str; 11] = [
    "session",
    "task",
    "variant",
    "lap",
    "lap_detail",
    "output",
    "seal",
    "remark",
    "pass",
    "chunk",
    "signature",
];

/// Columns that no record is known by: another number in one of them changes nothing that is recorded.
const FREE: [(&str, &str); 1] = [("chunk", "id")];

fn columns(db: &Connection, table: &str) -> Vec<String> {
    let mut names = db.prepare(&format!("SELECT name FROM pragma_table_info('{table}')")).unwrap();
    names.query_map([], |row| row.get(0)).unwrap().collect::<Result<_, _>>().unwrap()
}

/// Returns a row of `table` picked by `random`, as a condition that holds for it alone.
fn some_row(db: &Connection, table: &str, random: &mut SplitMix) -> String {
    let names = columns(db, table);
    let all: Vec<String> = names.iter().map(|name| format!("quote({name})")).collect();
    let mut rows = db.prepare(&format!("SELECT {} FROM {table}", all.join(", "))).unwrap();
    let rows: Vec<Vec<String>> = rows
        .query_map([], |row| (0..names.len()).map(|at| row.get(at)).collect())
        .unwrap()
        .collect::<Result<_, _>>()
        .unwrap();
    let row = &rows[random.below(rows.len() as u64) as usize];
    let same = names.iter().zip(row).map(|(name, value)| format!("{name} IS {value}"));
    same.collect::<Vec<_>>().join(" AND ")
}

/// Another value of the same type, near enough to pass for one.
fn other(value: Value, random: &mut SplitMix) -> Value {
    match value {
        Value::Null => Value::Integer(1),
        Value::Integer(number) => Value::Integer(number + 1 + random.below(3).cast_signed()),
        Value::Real(number) => Value::Real(number * 1.01),
        Value::Text(text) => {
            let at = random.below(text.chars().count() as u64 + 1) as usize;
            let mut letters: Vec<char> = text.chars().collect();
            match letters.get_mut(at) {
                Some(letter) if letter.is_ascii_digit() && *letter != '9' => *letter = '9',
                Some(letter) if *letter != 'x' => *letter = 'x',
                _ => letters.push(' '),
            }
            Value::Text(letters.into_iter().collect())
        }
        Value::Blob(mut bytes) => {
            let at = random.below(bytes.len() as u64 + 1) as usize;
            match bytes.get_mut(at) {
                Some(byte) => *byte ^= 1,
                None => bytes.push(0),
            }
            Value::Blob(bytes)
        }
    }
}

/// Does one thing to the file that its triggers forbid; returns what, or nothing where it cannot be done.
fn mutate(db: &Connection, random: &mut SplitMix) -> Option<String> {
    let table = TABLES[random.below(TABLES.len() as u64) as usize];
    let row = some_row(db, table, random);
    let names = columns(db, table);
    let column = &names[random.below(names.len() as u64) as usize];
    let free = FREE.contains(&(table, column.as_str()));
    match random.below(4) {
        0 => {
            db.execute(&format!("DELETE FROM {table} WHERE {row}"), []).ok()?;
            Some(format!("deleted from {table}"))
        }
        1 => {
            // A copy under another key: a row that was never recorded.
            let copied: Vec<String> = names
                .iter()
                .map(|name| match name.as_str() {
                    "id" => "(SELECT max(id) + 1 FROM T)".replace('T', table),
                    "number" | "part" => format!("{name} + 7"),
                    "lap" if !names.contains(&"id".to_owned()) => "lap + 1000".to_owned(),
                    "place" => "(SELECT max(place) + 40 FROM T)".replace('T', table),
                    "mark" | "settings" | "seal" => format!("{name} || ' '"),
                    "form" if table == "task" => format!("{name} || ' '"),
                    _ => name.clone(),
                })
                .collect();
            let copy = format!(
                "INSERT INTO {table} SELECT {} FROM {table} WHERE {row}",
                copied.join(", ")
            );
            db.execute(&copy, []).ok().filter(|rows| *rows > 0)?;
            Some(format!("copied a row of {table}"))
        }
        2 => {
            let twin = some_row(db, table, random);
            let value: Value = db
                .query_row(&format!("SELECT {column} FROM {table} WHERE {twin}"), [], |r| r.get(0))
                .ok()?;
            let was: Value = db
                .query_row(&format!("SELECT {column} FROM {table} WHERE {row}"), [], |r| r.get(0))
                .ok()?;
            if value == was || free {
                return None;
            }
            db.execute(&format!("UPDATE {table} SET {column} = ?1 WHERE {row}"), [value]).ok()?;
            Some(format!("gave a row of {table} the {column} of another"))
        }
        _ => {
            if free {
                return None;
            }
            let was: Value = db
                .query_row(&format!("SELECT {column} FROM {table} WHERE {row}"), [], |r| r.get(0))
                .ok()?;
            let now = other(was, random);
            db.execute(&format!("UPDATE {table} SET {column} = ?1 WHERE {row}"), [now]).ok()?;
            Some(format!("changed {column} of {table}"))
        }
    }
}

#[test]
fn whatever_is_done_behind_the_triggers_is_found() {
    let dir = tempfile::tempdir().unwrap();
    let (whole, path) = (dir.path().join("whole.db"), dir.path().join("logbook.db"));
    filled(&whole);
    let kept = seal(&whole);
    assert_eq!(amiss(&whole, &kept), None);
    let mut random = SplitMix::new(17);
    let (mut done, mut unseen) = (0, Vec::new());
    while done < rounds() {
        std::fs::copy(&whole, &path).unwrap();
        let db = careless(&path);
        let Some(what) = behind_triggers(&db, || mutate(&db, &mut random)) else { continue };
        drop(db);
        done += 1;
        if amiss(&path, &kept).is_none() {
            unseen.push(what);
        }
    }
    assert!(unseen.is_empty(), "{} of {done}: {unseen:?}", unseen.len());
}

#[test]
fn whatever_else_is_put_into_the_schema_is_refused_before_anything_is_asked() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("logbook.db");
    filled(&path);
    let whole = std::fs::read(&path).unwrap();
    for (put_in, named) in [
        ("CREATE TABLE extra (x)", "table extra, which is not ours"),
        ("CREATE VIEW extra AS SELECT 1", "view extra, which is not ours"),
        ("CREATE INDEX extra ON lap (round)", "index extra, which is not ours"),
        (
            "CREATE TRIGGER extra AFTER INSERT ON lap BEGIN SELECT 1; END",
            "trigger extra, which is not ours",
        ),
        ("DROP TRIGGER lap_keeps", "no trigger lap_keeps"),
        ("DROP INDEX lap_with_readings", "no index lap_with_readings"),
        ("ALTER TABLE lap ADD COLUMN extra TEXT", "table lap, made otherwise"),
        (
            "DROP TRIGGER lap_stays; CREATE TRIGGER lap_stays BEFORE DELETE ON lap BEGIN SELECT 1; END",
            "trigger lap_stays, made otherwise",
        ),
    ] {
        std::fs::write(&path, &whole).unwrap();
        careless(&path).execute_batch(put_in).unwrap();
        let refused = Logbook::open(&path).unwrap_err().to_string();
        assert!(refused.ends_with(named), "{put_in}: {refused}");
    }
}

/// Returns whether anything is said to be amiss in a logbook of which no seal was noted.
fn accused(path: &Path) -> Option<String> {
    let logbook = Logbook::open(path).unwrap();
    let broken = logbook.verify().unwrap().into_iter().find_map(|session| session.broken);
    let remark = logbook.verify_remarks().unwrap().broken;
    let stray = logbook.strays().unwrap().into_iter().next();
    broken.map(|broken| broken.to_string()).or(remark).or(stray)
}

#[test]
fn whatever_is_done_rightly_accuses_nobody() {
    let dir = tempfile::tempdir().unwrap();
    let at = |name: &str| dir.path().join(name);
    let merge = |into: &str, from: &str| {
        let visitor = Visitor::check(&at(from), &at("copy.db")).unwrap();
        Logbook::create_or_open(&at(into)).unwrap().take_in(&visitor).unwrap();
    };
    filled(&at("logbook.db"));
    let mut random = SplitMix::new(3);
    let trips = if rounds() == 200 { 50 } else { rounds() };
    for round in 0..trips {
        let kept = seal(&at("logbook.db"));
        let _ = std::fs::remove_file(at("fresh.db"));
        match random.below(6) {
            0 => careless(&at("logbook.db")).execute_batch("VACUUM").unwrap(),
            1 => {
                // Into an empty one, and that takes its place: in whatever order rows come, they are the same.
                merge("fresh.db", "logbook.db");
                std::fs::rename(at("fresh.db"), at("logbook.db")).unwrap();
            }
            2 => {
                let into = format!("VACUUM INTO '{}'", at("fresh.db").display());
                careless(&at("logbook.db")).execute_batch(&into).unwrap();
                std::fs::rename(at("fresh.db"), at("logbook.db")).unwrap();
            }
            3 => merge("logbook.db", "logbook.db"),
            4 => {
                // Of an older format, and brought up; then resumed.
                let format = 1 + random.below(6);
                let kept = Path::new(env!("CARGO_MANIFEST_DIR")).join("kept");
                std::fs::copy(kept.join(format!("format-{format}.db")), at("fresh.db")).unwrap();
                assert_eq!(accused(&at("fresh.db")), None, "format {format}, only read");
                let mut logbook = Logbook::open_to_write(&at("fresh.db")).unwrap();
                begin(&mut logbook, "plover", &format!("new-{round}"));
                assert_eq!(accused(&at("fresh.db")), None, "format {format}, brought up");
            }
            _ => {
                // With another's sessions before or behind its own.
                let mut other = Logbook::create_or_open(&at("other.db")).unwrap();
                begin(&mut other, "owl", &format!("owl-{round}"));
                drop(other);
                let two = [["other.db", "logbook.db"], ["logbook.db", "other.db"]];
                for from in two[random.below(2) as usize] {
                    merge("fresh.db", from);
                }
                assert_eq!(accused(&at("fresh.db")), None, "round {round}");
            }
        }
        assert_eq!(amiss(&at("logbook.db"), &kept), None, "round {round}");
    }
}
