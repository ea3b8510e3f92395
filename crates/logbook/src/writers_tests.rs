//! Many who write to one logbook at once.

use crate::tests::{begin, body, lap, remark, task};
use crate::{Logbook, Visitor};
use honest_lap_core::record::{RemarkKind, Settings, Subject};
use std::collections::BTreeSet;
use std::sync::Barrier;

const WRITERS: u32 = 200;

#[test]
fn two_hundred_at_once_write_two_hundred_whole_sessions_while_others_are_merged() {
    let dir = tempfile::tempdir().unwrap();
    let (path, away) = (dir.path().join("logbook.db"), dir.path().join("away.db"));
    // Somebody else's session of the same rig, older than all: merging it gives every name a new meaning.
    let mut other = Logbook::create_or_open(&away).unwrap();
    let (settings, work) = (Settings::default(), task("render"));
    let theirs = begin(&mut other, "heron", "0-theirs");
    other.append_lap(&theirs, &lap(1, ("still", &work), &settings, &body())).unwrap();
    drop(other);
    drop(Logbook::create_or_open(&path).unwrap());
    let start = Barrier::new(WRITERS as usize + 1);
    let write = |writer: u32| {
        let rig = ["heron", "wren"][writer as usize % 2];
        start.wait();
        let mut logbook = Logbook::create_or_open(&path).unwrap();
        let session = begin(&mut logbook, rig, &format!("mark-{writer}"));
        // What it writes down says who wrote it.
        let settings = Settings::new(vec![("writer".into(), writer.to_string())]);
        for number in 1..=2 {
            let body = body();
            let lap = lap(number, ("still", &work), &settings, &body);
            logbook.append_lap(&session, &lap).unwrap();
        }
        let about = remark(RemarkKind::Note, Subject::Rig(rig.into()), "seen");
        logbook.append_remark(&about, &format!("r-{writer}")).unwrap();
        session.mark().to_owned()
    };
    let merge = || {
        start.wait();
        let visitor = Visitor::check(&away, &dir.path().join("copy.db")).unwrap();
        Logbook::create_or_open(&path).unwrap().take_in(&visitor).unwrap()
    };
    let marks: BTreeSet<String> = std::thread::scope(|scope| {
        let writers: Vec<_> =
            (0..WRITERS).map(|writer| scope.spawn(move || write(writer))).collect();
        let merged = scope.spawn(merge);
        assert_eq!(merged.join().unwrap().sessions, 1);
        writers.into_iter().map(|writer| writer.join().unwrap()).collect()
    });
    assert_eq!(marks.len(), WRITERS as usize);
    let logbook = Logbook::open(&path).unwrap();
    let sessions = logbook.sessions().unwrap();
    assert_eq!(sessions.len(), WRITERS as usize + 1);
    for mark in &marks {
        let session = logbook.session_marked(mark).unwrap().unwrap();
        let laps = logbook.laps_of(&session.name).unwrap();
        let writer = mark.strip_prefix("mark-");
        assert_eq!(laps.len(), 2, "{}", session.name);
        assert!(laps.iter().all(|lap| lap.settings.get("writer") == writer), "{}", session.name);
    }
    let names: BTreeSet<String> =
        sessions.iter().map(|page| page.record.name.to_string()).collect();
    assert_eq!(names.len(), sessions.len());
    assert!(logbook.verify().unwrap().iter().all(|session| session.broken.is_none()));
    assert_eq!(logbook.verify_remarks().unwrap().broken, None);
    assert_eq!(logbook.remarks().unwrap().len(), WRITERS as usize);
}
