//! Laps with what is known of them besides their heads.
//!
//! Runs in under a second.

use crate::tests::{begin, body, lap, open, task};
use crate::{Logbook, NewLap, NewSession};
use honest_lap_core::lab::{Lap, LapFacts, Laps};
use honest_lap_core::record::{LapBody, LapHead, RigFound, SessionAbout, Settings};

/// Returns the heads of laps.
fn heads(laps: &Laps) -> Vec<LapHead> {
    laps.in_order().iter().map(Lap::head).collect()
}

#[test]
fn what_is_known_of_laps_is_that_of_their_bodies_and_their_heads_are_the_same_every_way() {
    let (_dir, mut logbook) = open();
    let settings = Settings::default();
    let (body, empty) = (body(), LapBody::default());
    let still = ("still", &task("render"));
    let heron = begin(&mut logbook, "heron", "a");
    logbook.append_lap(&heron, &lap(1, still, &settings, &body)).unwrap();
    let wren = begin(&mut logbook, "wren", "b");
    logbook.append_lap(&wren, &lap(1, still, &settings, &empty)).unwrap();
    logbook.append_lap(&heron, &lap(2, still, &settings, &body)).unwrap();
    logbook.append_lap(&heron, &lap(3, still, &settings, &empty)).unwrap();

    let all = logbook.known_laps().unwrap();
    let facts: Vec<LapFacts> = all.iter().map(|lap| lap.facts()).collect();
    let of = [&body, &body, &empty, &empty].map(LapFacts::of);
    assert_eq!(facts, of);
    assert_eq!(all, logbook.everything().unwrap().laps);
    let mut written = logbook.laps().unwrap();
    written.sort_by(|a, b| a.name.cmp(&b.name));
    assert_eq!(heads(&all), written);
    let of_heron = logbook.known_laps_of(&heron.name).unwrap();
    assert_eq!(of_heron.iter().map(|lap| lap.number).collect::<Vec<_>>(), [1, 2, 3]);
    assert_eq!(heads(&of_heron), logbook.laps_of(&heron.name).unwrap());
}

#[test]
fn laps_of_which_the_same_is_known_share_it() {
    let (_dir, mut logbook) = open();
    let (settings, empty, task) = (Settings::default(), LapBody::default(), task("render"));
    let heron = begin(&mut logbook, "heron", "a");
    for number in 1..=2 {
        let new = lap(number, ("still", &task), &settings, &empty);
        logbook.append_lap(&heron, &NewLap { round: number, ..new }).unwrap();
    }
    let all = logbook.known_laps().unwrap();
    let runs: Vec<usize> = all.series()[0].runs().map(|run| run.len()).collect();
    assert_eq!(runs, [2]);
}

#[test]
fn a_lap_of_which_nothing_stands_beside_its_head_is_damage_and_is_named() {
    let (dir, mut logbook) = open();
    let (settings, empty, task) = (Settings::default(), LapBody::default(), task("render"));
    let heron = begin(&mut logbook, "heron", "a");
    for number in 1..=3 {
        logbook.append_lap(&heron, &lap(number, ("still", &task), &settings, &empty)).unwrap();
    }
    let stays = "SELECT sql FROM sqlite_schema WHERE name = 'lap_detail_stays'";
    let stays: String = logbook.db.query_row(stays, [], |row| row.get(0)).unwrap();
    let damage = "PRAGMA foreign_keys = OFF; DROP TRIGGER lap_detail_stays;
                  DELETE FROM lap_detail WHERE lap = 2;";
    logbook.db.execute_batch(&format!("{damage} {stays}")).unwrap();
    let path = dir.path().join("logbook.db");
    let said = Logbook::open(&path).unwrap().everything().unwrap_err().to_string();
    assert!(said.contains("lap heron-1.2"), "{said}");
}

#[test]
fn a_task_was_last_run_when_the_latest_of_its_sessions_began() {
    let (_dir, mut logbook) = open();
    let (settings, empty) = (Settings::default(), LapBody::default());
    let (render, export) = (task("render"), task("export"));
    let heron = logbook
        .begin_session(&NewSession {
            rig: "heron",
            mark: "a",
            started: "2026-03-09T10:00:00Z",
            seed: 1,
            tool: "0.1.0",
            found: &RigFound::default(),
            versions: &[],
            about: &SessionAbout::default(),
        })
        .unwrap();
    logbook.append_lap(&heron, &lap(1, ("still", &render), &settings, &empty)).unwrap();
    let wren = begin(&mut logbook, "wren", "b");
    logbook.append_lap(&wren, &lap(1, ("still", &render), &settings, &empty)).unwrap();
    logbook.append_lap(&heron, &lap(2, ("reel", &export), &settings, &empty)).unwrap();
    let tasks = logbook.everything().unwrap().tasks;
    assert_eq!(tasks, logbook.tasks().unwrap(), "by the laps, and by the database");
    assert!(tasks.iter().all(|form| form.last_driven.as_deref() == Some("2026-03-09T10:00:00Z")));
}
