//! Logbooks that meet: of several rigs, of one rig twice, and of people who mean no good.

use super::*;
use crate::NewSession;
use crate::frames_tests::recorded;
use crate::mutation_tests::behind_triggers;
use crate::tests::{body, lap, remark, task};
use honest_lap_core::record::{
    LapBody, LapName, RemarkKind, RigFound, SessionAbout, SessionName, Settings, Subject,
};
use tempfile::TempDir;

/// A folder with logbooks in it.
struct Shelf(TempDir);

impl Shelf {
    fn new() -> Self {
        Self(tempfile::tempdir().unwrap())
    }

    fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    fn open(&self, name: &str) -> Logbook {
        Logbook::create_or_open(&self.path(name)).unwrap()
    }

    /// Records a session of two laps.
    fn session(&self, name: &str, rig: &str, machine: &str, mark: &str) -> SessionName {
        let mut logbook = self.open(name);
        let found = RigFound { machine: Some(machine.into()), ..RigFound::default() };
        let about = SessionAbout::default();
        let session = logbook
            .begin_session(&NewSession {
                rig,
                mark,
                started: &format!("2026-03-01T10:00:00Z {mark}"),
                seed: 1,
                tool: "0.1.0",
                found: &found,
                versions: &[],
                about: &about,
            })
            .unwrap();
        // Tasks are entered in another order everywhere, so their numbers differ.
        let (settings, body) = (Settings::default(), LapBody::default());
        let of_mark = format!("of-{mark}");
        let form = task("x");
        let first = lap(1, (&of_mark, &form), &settings, &body);
        logbook.append_lap(&session, &first).unwrap();
        self.lap(name, &session.name, 2);
        session.name
    }

    fn lap(&self, name: &str, session: &SessionName, number: u32) {
        let mut logbook = self.open(name);
        let session = logbook.open_session(session).unwrap();
        let settings = Settings::new(vec![("threads".into(), number.to_string())]);
        let body = LapBody { started: format!("lap {number}"), ..LapBody::default() };
        let form = task("render");
        let lap = lap(number, ("still", &form), &settings, &body);
        logbook.append_lap(&session, &lap).unwrap();
    }

    fn visitor(&self, name: &str) -> Result<Visitor, LogbookError> {
        Visitor::check(&self.path(name), &self.path(&format!("{name}.copy")))
    }

    fn merge(&self, into: &str, name: &str) -> Result<Merged, LogbookError> {
        let visitor = self.visitor(name)?;
        self.open(into).take_in(&visitor)
    }

    /// Returns the seals that stand for what it holds, whatever came first.
    fn seals(&self, name: &str) -> Vec<String> {
        let logbook = self.open(name);
        let sealed = logbook.verify().unwrap();
        assert!(sealed.iter().all(|session| session.broken.is_none()), "{sealed:?}");
        let remarks = logbook.verify_remarks().unwrap();
        assert_eq!(remarks.broken, None);
        let mut seals = remarks.seals;
        seals.extend(sealed.into_iter().map(|session| session.seal));
        seals.sort();
        seals
    }
}

#[test]
fn three_logbooks_come_to_the_same_in_every_order_and_twice_is_once() {
    let orders = [["a", "b", "c"], ["c", "a", "b"], ["b", "c", "a"]];
    let mut seals = BTreeSet::new();
    for order in orders {
        let shelf = Shelf::new();
        for (name, rig) in [("a", "heron"), ("b", "wren"), ("c", "plover")] {
            let session = shelf.session(name, rig, &format!("m-{rig}"), name);
            let subject = Subject::Session(session);
            let note = remark(RemarkKind::Note, subject, "window open");
            shelf.open(name).append_remark(&note, &format!("r-{name}")).unwrap();
        }
        for name in order {
            let merged = shelf.merge("home", name).unwrap();
            assert_eq!(merged, Merged { sessions: 1, laps: 2, remarks: 1 });
        }
        for name in order {
            assert_eq!(
                shelf.merge("home", name).unwrap(),
                Merged::default(),
                "importing again changes nothing"
            );
        }
        let home = shelf.open("home");
        assert_eq!((home.laps().unwrap().len(), home.remarks().unwrap().len()), (6, 3));
        assert_eq!(home.faults().unwrap(), Vec::<String>::new());
        seals.insert(shelf.seals("home"));
        assert!(!shelf.path("a.copy").exists(), "the copy is gone");
    }
    assert_eq!(seals.len(), 1, "the order does not matter");
}

#[test]
fn a_session_that_went_on_elsewhere_is_completed_and_one_that_parted_is_refused() {
    let shelf = Shelf::new();
    let session = shelf.session("a", "heron", "m", "x");
    std::fs::copy(shelf.path("a"), shelf.path("b")).unwrap();
    shelf.lap("b", &session, 3);
    assert_eq!(shelf.merge("a", "b").unwrap(), Merged { sessions: 0, laps: 1, remarks: 0 });
    shelf.seals("a");
    std::fs::copy(shelf.path("a"), shelf.path("c")).unwrap();
    shelf.lap("a", &session, 4);
    let mut other = shelf.open("c");
    let session = other.open_session(&session).unwrap();
    let (settings, body) = (Settings::default(), LapBody::default());
    other.append_lap(&session, &lap(4, ("other", &task("y")), &settings, &body)).unwrap();
    drop(other);
    let refused = shelf.merge("a", "c").unwrap_err();
    assert!(refused.to_string().contains("lap heron-1.4"), "{refused}");
    assert_eq!(shelf.open("a").laps().unwrap().len(), 4, "nothing was recorded");
}

#[test]
fn two_sessions_of_one_name_get_two_names_whichever_came_first() {
    for (first, second) in [("a", "b"), ("b", "a")] {
        let shelf = Shelf::new();
        shelf.session("a", "heron", "m", "early");
        shelf.session("b", "heron", "m", "late");
        shelf.merge("home", first).unwrap();
        shelf.merge("home", second).unwrap();
        let home = shelf.open("home");
        let names: BTreeSet<String> =
            home.sessions().unwrap().iter().map(|page| page.record.name.to_string()).collect();
        assert_eq!(names, ["heron-1", "heron-1001"].map(str::to_owned).into());
        let late = SessionName::parse("heron-1001").unwrap();
        assert!(
            home.sessions()
                .unwrap()
                .iter()
                .any(|page| { page.record.name == late && page.record.started.ends_with("late") })
        );
        assert_eq!(home.laps_of(&late).unwrap().len(), 2);
    }
}

#[test]
fn one_name_for_two_machines_is_asked_about_and_the_answer_holds() {
    let shelf = Shelf::new();
    shelf.session("home", "heron", "m-one", "x");
    shelf.session("other", "heron", "m-two", "y");
    let visitor = shelf.visitor("other").unwrap();
    let asked = visitor.two_machines(&shelf.open("home")).unwrap();
    let theirs = ("heron".to_owned(), "m-two".to_owned());
    assert_eq!(asked, [TwoMachines { rig: "heron".into(), theirs }]);
    let mut home = shelf.open("home");
    home.call_machine(("heron", "m-two"), "heron-b", "now", "mark").unwrap();
    assert_eq!(visitor.two_machines(&home).unwrap(), [], "it is answered");
    home.take_in(&visitor).unwrap();
    let rigs: BTreeSet<String> =
        home.laps().unwrap().into_iter().map(|lap| lap.name.session.rig).collect();
    assert_eq!(rigs, ["heron", "heron-b"].map(str::to_owned).into());
    assert_eq!(home.rig_of("m-two").unwrap().as_deref(), Some("heron-b"));
    drop(home);
    shelf.seals("home");
}

#[test]
fn a_broken_or_hostile_logbook_is_refused_and_named_and_changes_nothing() {
    for (change, wanted) in [
        ("UPDATE lap SET wall_ns = 1 WHERE number = 2", "lap heron-1.2 has changed"),
        ("UPDATE remark SET text = 'fine'", "the remark made at"),
        ("CREATE TRIGGER evil AFTER INSERT ON lap BEGIN DELETE FROM lap; END", "trigger evil"),
        ("CREATE VIEW evil AS SELECT 1", "view evil"),
        ("CREATE TABLE extra (x)", "table extra"),
    ] {
        let shelf = Shelf::new();
        shelf.session("home", "wren", "m-wren", "h");
        let session = shelf.session("bad", "heron", "m", "x");
        let note = remark(RemarkKind::Note, Subject::Session(session), "loud");
        let mut bad = shelf.open("bad");
        bad.append_remark(&note, "r").unwrap();
        // The triggers are put back, so that only the change itself is to be found.
        behind_triggers(&bad.db, || bad.db.execute_batch(change).unwrap());
        drop(bad);
        let before = shelf.seals("home");
        let refused = shelf.merge("home", "bad").unwrap_err().to_string();
        assert!(refused.contains(wanted) && refused.contains("bad"), "{change}: {refused}");
        assert_eq!(shelf.seals("home"), before);
    }
    let shelf = Shelf::new();
    std::fs::write(shelf.path("text"), "not a database".repeat(500)).unwrap();
    assert!(matches!(shelf.visitor("text"), Err(LogbookError::NotALogbook { .. })));
    assert!(matches!(shelf.visitor("none"), Err(LogbookError::Missing { .. })));
}

#[test]
fn a_logbook_of_format_1_is_taken_in_and_left_as_it_is() {
    let shelf = Shelf::new();
    let kept = Path::new(env!("CARGO_MANIFEST_DIR")).join("kept/format-1.db");
    let before = std::fs::read(&kept).unwrap();
    std::fs::write(shelf.path("old"), &before).unwrap();
    assert_eq!(shelf.merge("home", "old").unwrap().laps, 4);
    assert_eq!(std::fs::read(shelf.path("old")).unwrap(), before);
    shelf.seals("home");
}

#[test]
fn a_session_that_went_on_in_both_places_is_refused_though_no_lap_has_two_records() {
    let shelf = Shelf::new();
    let session = shelf.session("a", "heron", "m", "x");
    std::fs::copy(shelf.path("a"), shelf.path("b")).unwrap();
    shelf.lap("a", &session, 3);
    shelf.lap("b", &session, 4);
    let refused = shelf.merge("a", "b").unwrap_err();
    assert!(refused.to_string().contains("lap heron-1.4"), "{refused}");
    assert_eq!(shelf.open("a").laps().unwrap().len(), 3, "nothing was recorded");
    shelf.seals("a");
}

#[test]
fn a_remark_that_differs_is_refused_whole() {
    let shelf = Shelf::new();
    for (name, text) in [("a", "a door was open"), ("b", "all was well")] {
        let session = shelf.session(name, "heron", "m", name);
        let note = remark(RemarkKind::Note, Subject::Session(session), text);
        shelf.open(name).append_remark(&note, "one-mark").unwrap();
    }
    let refused = shelf.merge("a", "b").unwrap_err();
    assert!(refused.to_string().contains("the remark made at 2026-03-01T12:00:00Z"), "{refused}");
    assert_eq!(shelf.open("a").sessions().unwrap().len(), 1, "nothing was recorded");
}

#[test]
fn a_preview_says_what_would_come_in_and_takes_in_nothing() {
    let shelf = Shelf::new();
    shelf.session("a", "heron", "m-heron", "a");
    shelf.session("b", "wren", "m-wren", "b");
    let before = std::fs::read(shelf.path("a")).unwrap();
    let visitor = shelf.visitor("b").unwrap();
    let seen = shelf.open("a").preview(&visitor).unwrap();
    assert_eq!(seen, Merged { sessions: 1, laps: 2, remarks: 0 });
    assert_eq!(std::fs::read(shelf.path("a")).unwrap(), before);
}

#[test]
fn frames_come_along_and_a_pass_without_its_frames_is_refused() {
    let shelf = Shelf::new();
    shelf.session("home", "wren", "m-wren", "h");
    let kept = Path::new(env!("CARGO_MANIFEST_DIR")).join("kept/format-2.db");
    std::fs::write(shelf.path("old"), std::fs::read(kept).unwrap()).unwrap();
    assert_eq!(shelf.merge("home", "old").unwrap().laps, 5, "written before there were frames");
    let session = shelf.session("away", "heron", "m-heron", "a");
    let mut away = shelf.open("away");
    let session = away.open_session(&session).unwrap();
    let body = LapBody { pass: Some(Box::new(recorded(70_000))), ..body() };
    let rings = ("rings", &task("rings"));
    away.append_lap(&session, &lap(9, rings, &Settings::default(), &body)).unwrap();
    drop(away);
    shelf.merge("home", "away").unwrap();
    let home = shelf.open("home");
    let moved = home.sessions().unwrap().into_iter().map(|page| page.record.name);
    let names: Vec<LapName> = moved.map(|session| LapName { session, number: 9 }).collect();
    let passes = names.iter().filter_map(|name| home.pass(name).unwrap());
    assert_eq!(passes.map(|pass| pass.pass.shown.len()).collect::<Vec<_>>(), [70_000]);
    let bad = shelf.open("away");
    behind_triggers(&bad.db, || bad.db.execute("DELETE FROM chunk WHERE part = 1", []).unwrap());
    drop(bad);
    let refused = shelf.visitor("away").unwrap_err().to_string();
    assert!(refused.contains("heron-1.9") || refused.contains(".9"), "{refused}");
}
