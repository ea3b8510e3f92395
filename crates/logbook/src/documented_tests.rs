//! What docs/formats says of a logbook, held against logbooks that this code writes: the worked example, and the
//! script that checks seals without this tool.

use crate::mutation_tests::{behind_triggers, careless, filled};
use crate::tests::{begin, body, lap, open, task};
use crate::{Logbook, hash};
use honest_lap_core::record::{LapBody, Pass, RecordedPass, Repeat, Settings};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

fn formats() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/formats")
}

/// Runs a script of docs/formats on the logbook at `path`.
fn run(script: &str, path: &Path) -> Output {
    Command::new("python3").arg(formats().join(script)).arg(path).output().unwrap()
}

#[test]
fn the_script_that_knows_only_the_document_comes_to_the_same_seals() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("logbook.db");
    filled(&path);
    let logbook = Logbook::open(&path).unwrap();
    let mut wanted: Vec<String> = Vec::new();
    for (session, mark) in logbook.verify().unwrap().iter().zip(["a", "b", "c"]) {
        wanted.push(format!("session {mark} {} holds", session.seal));
    }
    wanted.push(format!("logbook {}", logbook.seal().unwrap()));
    let told = run("verify_logbook.py", &path);
    assert_eq!(String::from_utf8_lossy(&told.stdout).lines().collect::<Vec<_>>(), wanted);
    assert_eq!(told.status.code(), Some(0), "{}", String::from_utf8_lossy(&told.stderr));
    for change in [
        "UPDATE lap SET wall_ns = wall_ns + 1 WHERE id = 2",
        "UPDATE chunk SET packed = x'00' WHERE id = 1",
        "UPDATE remark SET text = 'fine' WHERE mark = 'r-a'",
        "UPDATE lap_detail SET traces = '{}' WHERE lap = 1",
    ] {
        let db = careless(&path);
        behind_triggers(&db, || db.execute_batch(change).unwrap());
        let told = run("verify_logbook.py", &path);
        assert_eq!(told.status.code(), Some(1), "{change}: {told:?}");
        filled_anew(&path);
    }
}

fn filled_anew(path: &Path) {
    std::fs::remove_file(path).unwrap();
    filled(path);
}

#[test]
fn the_worked_example_is_what_is_sealed() {
    let (_dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "0f1e2d3c4b5a69788796a5b4c3d2e1f0");
    let body = LapBody { started: "2026-03-01T10:00:01Z".into(), ..LapBody::default() };
    let (settings, work) = (Settings::default(), task("render"));
    logbook.append_lap(&session, &lap(1, ("still", &work), &settings, &body)).unwrap();
    let records = crate::seal::records(&logbook.db, 1).unwrap();
    let seals: Vec<String> = records.iter().map(|record| hash::sha256(record.bytes())).collect();
    assert_eq!(logbook.verify().unwrap()[0].seal, seals[1]);
    let document = std::fs::read_to_string(formats().join("logbook.md")).unwrap();
    for (record, seal) in records.iter().zip(seals) {
        let text = String::from_utf8(record.bytes().to_vec()).unwrap();
        assert!(document.contains(&text), "the worked example should be:\n{text}");
        assert!(document.contains(&seal), "its seal should be {seal}");
    }
}

#[test]
fn every_number_can_be_read_without_this_tool() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("logbook.db");
    let mut logbook = Logbook::create_or_open(&path).unwrap();
    let session = begin(&mut logbook, "heron", "a");
    let (settings, work) = (Settings::default(), task("render"));
    let mut random = SplitMix::new(11);
    let mut noise = |of: u64| random.below(of);
    // What calls for each way of packing: noise, few decimals, a run that climbs, a pattern that comes again.
    let noisy: Vec<u64> = (0..70_000).map(|_| 16_000_000 + noise(900_000)).collect();
    let coarse: Vec<u64> = (0..70_000).map(|_| 160_000_037 + 1_000_000 * noise(900)).collect();
    let pattern: Vec<u64> = (0..997).map(|_| 1 + noise(1 << 40)).collect();
    let again: Vec<u64> = (0..70_000).map(|at| pattern[at * at % 3 + at % 990]).collect();
    let climbs = |at: u64| Repeat { began: Nanos(at * 1_000_000_007), took: Nanos(900 + at) };
    let pass = RecordedPass {
        pass: Pass { shown: noisy, processor: coarse, graphics: again, ..Pass::default() },
        ..crate::frames_tests::recorded(9)
    };
    let repeats: Vec<Repeat> = (0..3_000).map(climbs).collect();
    let body = LapBody { pass: Some(Box::new(pass)), repeats, ..body() };
    logbook.append_lap(&session, &lap(1, ("rings", &work), &settings, &body)).unwrap();
    let told = run("read_chunks.py", &path);
    assert!(told.status.success(), "{}", String::from_utf8_lossy(&told.stderr));
    let told = String::from_utf8(told.stdout).unwrap();
    let of = |name: &str| -> Vec<u64> {
        let mine = told.lines().filter_map(|line| line.strip_prefix(&format!("heron-1.1 {name} ")));
        mine.map(|number| number.parse().unwrap()).collect()
    };
    let pass = body.pass.unwrap().pass;
    let began = body.repeats.iter().map(|repeat| repeat.began.0).collect();
    for (name, numbers) in [
        ("shown", pass.shown),
        ("processor", pass.processor),
        ("graphics", pass.graphics),
        ("repeat-began", began),
    ] {
        assert!(of(name) == numbers, "{name}");
    }
}
