//! A logbook written, read back, and misused.
//!
//! Long, since each test makes a logbook of its own, and all share the making.

use crate::{Broken, Logbook, LogbookError, NewLap, NewSession, OpenSession, Signed};
use honest_lap_core::record::{
    Better, Captured, LapBody, LapName, Launch, Outcome, Produced, Quantity, Reading, Remark,
    RemarkKind, RigFound, SessionAbout, SessionName, Settings, Subject, Task, Template, Trace,
    Traces, Usage, VersionLine,
};
use honest_lap_core::unit::Nanos;
use tempfile::TempDir;

pub(crate) fn task(command: &str) -> Task {
    Task::of(Launch::Shell(Template::parse(command).unwrap()))
}

pub(crate) fn open() -> (TempDir, Logbook) {
    let dir = tempfile::tempdir().unwrap();
    let logbook = Logbook::create_or_open(&dir.path().join("logbook.db")).unwrap();
    (dir, logbook)
}

pub(crate) fn begin(logbook: &mut Logbook, rig: &str, mark: &str) -> OpenSession {
    let found = RigFound { machine: Some(format!("m-{rig}")), ..RigFound::default() };
    let versions = [VersionLine {
        workload: "still".into(),
        label: "renderer".into(),
        line: Some("2.1".into()),
    }];
    let new = NewSession {
        rig,
        mark,
        started: "2026-03-01T10:00:00Z",
        seed: u64::MAX,
        tool: "0.1.0",
        found: &found,
        versions: &versions,
        about: &SessionAbout { room_c: Some(21.5), ..SessionAbout::default() },
    };
    logbook.begin_session(&new).unwrap()
}

pub(crate) fn body() -> LapBody {
    LapBody {
        started: "2026-03-01T10:00:01Z".into(),
        command: vec!["still".into(), "--out".into(), "it's \"x\"".into()],
        folder: "/study".into(),
        exit_code: Some(0),
        usage: Some(Usage { user: Nanos(5), system: Nanos(6), peak_bytes: 7, peak_floor_bytes: 1 }),
        produced: vec![Produced {
            file: "a.png".into(),
            bytes: Some(9),
            sha256: Some("ff".into()),
            picture: None,
        }],
        left_behind: vec!["sleep".into()],
        readings: vec![Reading {
            name: "score".into(),
            unit: "points".into(),
            better: Better::More,
            value: Some(0.1 + 0.2),
            step: Some(0.1),
            seen: "0.3".into(),
            reports_time: false,
        }],
        traces: Traces {
            at_ms: vec![0, 500],
            channels: vec![Trace {
                quantity: Quantity::Temperature,
                which: "package".into(),
                unit: String::new(),
                values: vec![Some(61.5), None].into(),
            }],
        },
        stdout: Captured { head: b"\xff\0raw".to_vec(), tail: b"end".to_vec(), total: 1 << 40 },
        ..LapBody::default()
    }
}

pub(crate) fn lap<'a>(
    number: u32,
    (workload, task): (&'a str, &'a Task),
    settings: &'a Settings,
    body: &'a LapBody,
) -> NewLap<'a> {
    NewLap {
        number,
        workload,
        task,
        settings,
        round: 1,
        warm_up: false,
        outcome: Outcome::Done,
        wall: Some(Nanos(1_234_567_890)),
        parts: Some(Nanos(1_000_000_000)),
        step: None,
        body,
    }
}

#[test]
fn what_is_written_comes_back_to_the_nanosecond_and_the_byte() {
    let (dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "a");
    let still = ("still", &task("render {threads}"));
    let settings = Settings::new(vec![("threads".into(), "2".into())]);
    let (name, failed) = (session.lap(1), session.lap(2));
    let body = body();
    logbook.append_lap(&session, &lap(1, still, &settings, &body)).unwrap();
    let empty = LapBody { reason: Some("no program".into()), ..LapBody::default() };
    let not_started =
        NewLap { outcome: Outcome::NotStarted, wall: None, ..lap(2, still, &settings, &empty) };
    logbook.append_lap(&session, &not_started).unwrap();
    drop(logbook);

    let logbook = Logbook::open(&dir.path().join("logbook.db")).unwrap();
    let page = logbook.lap(&name).unwrap().unwrap();
    assert_eq!((&page.body, page.head.wall), (&body, Some(Nanos(1_234_567_890))));
    assert_eq!((page.head.parts, page.head.readings), (Some(Nanos(1_000_000_000)), body.readings));
    assert_eq!(page.task, task("render {threads}"));
    let page = logbook.lap(&failed).unwrap().unwrap();
    assert_eq!((page.head.wall, page.body.usage), (None, None));
    let heads = logbook.laps_of(&session.name).unwrap();
    assert_eq!(heads, logbook.laps().unwrap());
    assert_eq!(heads[1].outcome, Outcome::NotStarted);
    let sessions = logbook.sessions().unwrap();
    assert_eq!((sessions[0].record.seed, sessions[0].counted), (u64::MAX, 1));
    assert_eq!(sessions[0].not_done[&Outcome::NotStarted], 1);
    assert_eq!(sessions[0].record.versions[0].line.as_deref(), Some("2.1"));
    assert_eq!(logbook.lap(&session.lap(9)).unwrap(), None);
    assert_eq!(logbook.faults().unwrap(), Vec::<String>::new());
}

#[test]
fn sessions_count_up_by_rig_and_machines_are_remembered() {
    let (_dir, mut logbook) = open();
    let names = [("heron", "a"), ("wren", "b"), ("heron", "c")]
        .map(|(rig, mark)| begin(&mut logbook, rig, mark).name.to_string());
    assert_eq!(names, ["heron-1", "wren-1", "heron-2"]);
    assert_eq!(logbook.machine_of("wren").unwrap().as_deref(), Some("m-wren"));
    assert_eq!(logbook.rig_of("m-heron").unwrap().as_deref(), Some("heron"));
    assert_eq!(logbook.rig_of("m-owl").unwrap(), None);
}

#[test]
fn one_form_of_a_task_has_one_number() {
    let (_dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "a");
    let forms = [("still", "a"), ("still", "a"), ("still", "b"), ("reel", "a")];
    for ((workload, form), number) in forms.into_iter().zip(1..) {
        let (settings, body) = (Settings::default(), body());
        let form = task(form);
        let lap = lap(number, (workload, &form), &settings, &body);
        logbook.append_lap(&session, &lap).unwrap();
    }
    assert_eq!(
        logbook.laps().unwrap().iter().map(|lap| lap.task).collect::<Vec<_>>(),
        [1, 1, 2, 3]
    );
    assert_eq!(logbook.task_number("still", &task("a")).unwrap(), Some(1));
    assert_eq!(logbook.task_number("still", &task("c")).unwrap(), None);
}

#[test]
fn nothing_recorded_can_be_altered_or_deleted() {
    let (_dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "a");
    let still = ("still", &task("x"));
    let (settings, body) = (Settings::default(), body());
    logbook.append_lap(&session, &lap(1, still, &settings, &body)).unwrap();
    let about = Subject::Rig("heron".into());
    logbook.append_remark(&remark(RemarkKind::Note, about, "loud"), "r").unwrap();
    logbook.sign(&[&session], &[7; 32]).unwrap();
    for table in
        ["session", "task", "variant", "lap", "lap_detail", "output", "seal", "remark", "signature"]
    {
        let key = match table {
            "lap_detail" | "output" => "lap",
            "seal" | "remark" | "signature" => "place",
            _ => "id",
        };
        for change in [format!("DELETE FROM {table}"), format!("UPDATE {table} SET {key} = {key}")]
        {
            let refused = logbook.db.execute(&change, []).unwrap_err().to_string();
            assert!(refused.contains("never"), "{change}: {refused}");
        }
    }
    let twice = logbook.append_lap(&session, &lap(1, still, &settings, &body));
    assert!(twice.is_err(), "a lap has one record");
}

#[test]
fn a_newer_format_and_a_foreign_file_are_refused_untouched() {
    let (dir, logbook) = open();
    logbook.db.pragma_update(None, "user_version", 99).unwrap();
    drop(logbook);
    let path = dir.path().join("logbook.db");
    let before = std::fs::read(&path).unwrap();
    let refused = Logbook::create_or_open(&path).unwrap_err();
    assert!(matches!(refused, LogbookError::TooNew { found: 99, known: 8, .. }), "{refused}");
    assert_eq!(std::fs::read(&path).unwrap(), before);

    let text = dir.path().join("notes.db");
    std::fs::write(&text, "not a database, but long enough to look at".repeat(40)).unwrap();
    assert!(matches!(Logbook::open(&text), Err(LogbookError::NotALogbook { .. })));
    let other = dir.path().join("other.db");
    rusqlite::Connection::open(&other).unwrap().execute_batch("CREATE TABLE t (x)").unwrap();
    assert!(matches!(Logbook::create_or_open(&other), Err(LogbookError::NotALogbook { .. })));
    let missing = dir.path().join("none.db");
    assert!(matches!(Logbook::open(&missing), Err(LogbookError::Missing { .. })));
    assert!(!missing.exists());
}

#[test]
fn a_removed_file_is_noticed_before_a_lap_is_lost_in_it() {
    let (dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "a");
    std::fs::remove_file(dir.path().join("logbook.db")).unwrap();
    let (settings, body) = (Settings::default(), body());
    let refused = logbook.append_lap(&session, &lap(1, ("still", &task("x")), &settings, &body));
    let refused = refused.unwrap_err();
    assert!(matches!(refused, LogbookError::Replaced { .. }));
    assert!(refused.help().is_some());
}

#[test]
fn a_hostile_logbook_is_an_error_not_a_surprise() {
    let (dir, mut logbook) = open();
    begin(&mut logbook, "heron", "a");
    let path = dir.path().join("logbook.db");
    logbook
        .db
        .execute(
            "INSERT INTO session (rig, number, mark, started, seed, tool, found, versions)
             VALUES ('../evil', 1, 'z', 'now', 0, '', '{}', '[')",
            [],
        )
        .unwrap();
    drop(logbook);
    let logbook = Logbook::open(&path).unwrap();
    assert!(matches!(logbook.sessions(), Err(LogbookError::Damaged { .. })));
    assert!(matches!(logbook.laps(), Err(LogbookError::Damaged { .. })));
}

/// Writes a session of three laps and returns its name.
fn three_laps(logbook: &mut Logbook) -> SessionName {
    let session = begin(logbook, "heron", "a");
    let (settings, body) = (Settings::default(), body());
    let form = task("x");
    for number in 1..=3 {
        let lap = lap(number, ("still", &form), &settings, &body);
        logbook.append_lap(&session, &lap).unwrap();
    }
    session.name
}

/// Does to the file what the triggers would refuse.
pub(crate) fn tamper(logbook: &Logbook, change: &str) {
    logbook.db.execute_batch("PRAGMA query_only = OFF").unwrap();
    let triggers: Vec<String> = logbook
        .db
        .prepare("SELECT name FROM sqlite_schema WHERE type = 'trigger'")
        .unwrap()
        .query_map([], |row| row.get(0))
        .unwrap()
        .collect::<Result<_, _>>()
        .unwrap();
    for trigger in triggers {
        logbook.db.execute(&format!("DROP TRIGGER {trigger}"), []).unwrap();
    }
    logbook.db.execute_batch(&format!("PRAGMA foreign_keys = OFF; {change}")).unwrap();
}

/// Returns whether `noted` is found in the logbook as it is now.
fn has(logbook: &Logbook, noted: &str) -> bool {
    let (sessions, remarks) = (logbook.verify().unwrap(), logbook.verify_remarks().unwrap());
    logbook.has_seal(noted, (&sessions, &remarks)).unwrap()
}

#[test]
fn a_seal_that_was_noted_is_found_for_good_and_not_once_something_was_taken_out() {
    let (_dir, mut logbook) = open();
    let mut noted = vec![logbook.seal().unwrap()];
    three_laps(&mut logbook);
    let found = logbook.verify().unwrap();
    assert_eq!((found.len(), found[0].laps, &found[0].broken), (1, 3, &None));
    noted.push(logbook.seal().unwrap());
    let last = logbook.verify().unwrap()[0].seal.clone();
    let wren = begin(&mut logbook, "wren", "b");
    let about = remark(RemarkKind::Note, Subject::Rig("heron".into()), "loud");
    logbook.append_remark(&about, "r").unwrap();
    noted.push(logbook.seal().unwrap());
    logbook.sign(&[&wren], &[7; 32]).unwrap();
    noted.push(logbook.seal().unwrap());
    noted.push(last);
    assert!(noted.iter().all(|seal| has(&logbook, seal) && has(&logbook, &seal[..16])));
    assert!(!has(&logbook, &noted[0][..15]) && !has(&logbook, &"0".repeat(64)));
    // The last lap with its seal, the last remark, the signature: what is left is whole in itself.
    for (change, lost) in [
        ("DELETE FROM signature", 3),
        ("DELETE FROM remark", 2),
        (
            "DELETE FROM lap_detail WHERE lap = 3; DELETE FROM output WHERE lap = 3; DELETE FROM lap WHERE id = 3; DELETE FROM seal WHERE number = 3",
            1,
        ),
    ] {
        assert!(has(&logbook, &noted[lost]));
        tamper(&logbook, change);
        assert!(
            logbook.verify().unwrap().iter().all(|session| session.broken.is_none()),
            "{change}"
        );
        assert!(!has(&logbook, &noted[lost]), "{change}");
    }
    assert!(has(&logbook, &noted[0]), "that of the empty one");
}

#[test]
fn a_session_is_signed_and_another_hand_shows() {
    let (_dir, mut logbook) = open();
    let name = three_laps(&mut logbook);
    let session = logbook.open_session(&name).unwrap();
    let signed = |logbook: &Logbook| logbook.verify().unwrap()[0].signed.clone();
    assert_eq!(signed(&logbook), []);
    logbook.sign(&[&session], &[7; 32]).unwrap();
    logbook.sign(&[&session], &[7; 32]).unwrap();
    let key = crate::public_key(&[7; 32]);
    assert_eq!(signed(&logbook), [Signed { number: 3, key: key.clone(), holds: true }]);
    let form = task("x");
    logbook.append_lap(&session, &lap(4, ("still", &form), &Settings::default(), &body())).unwrap();
    logbook.sign(&[&session], &[8; 32]).unwrap();
    let both = signed(&logbook);
    assert_eq!((both.len(), both[0].number, both[1].number), (2, 3, 4));
    assert!(both.iter().all(|signed| signed.holds) && both[1].key != key);
    for change in [
        "UPDATE signature SET number = 2 WHERE number = 3",
        "UPDATE signature SET number = 3 WHERE number = 2; UPDATE signature SET key = upper(key)",
        "UPDATE signature SET key = printf('%.64c', '0')",
    ] {
        tamper(&logbook, change);
        assert_eq!(logbook.verify().unwrap()[0].broken, Some(Broken::Signature), "{change}");
    }
}

#[test]
fn whatever_is_changed_the_first_record_that_was_is_named() {
    let two = |session: &SessionName| LapName { session: session.clone(), number: 2 };
    type Wanted = fn(LapName) -> Broken;
    let cases: [(&str, Wanted); 13] = [
        ("UPDATE lap SET wall_ns = wall_ns - 1 WHERE number = 2", Broken::Lap),
        ("UPDATE lap SET outcome = 'signal' WHERE number = 2", Broken::Lap),
        ("UPDATE lap_detail SET reason = 'x' WHERE lap = 2", Broken::Lap),
        ("UPDATE output SET tail = x'00' WHERE lap = 2", Broken::Lap),
        ("DELETE FROM output WHERE lap = 2", Broken::Lap),
        ("UPDATE seal SET seal = 'x' || substr(seal, 2) WHERE number = 2", Broken::Lap),
        ("DELETE FROM lap WHERE number = 2", Broken::Missing),
        ("DELETE FROM seal WHERE number = 2", Broken::Unsealed),
        ("UPDATE session SET found = '{}'", |_| Broken::Session),
        ("UPDATE session SET about = '{}'", |_| Broken::Session),
        ("UPDATE lap SET parts_ns = 1 WHERE number = 2", Broken::Lap),
        ("UPDATE lap_detail SET readings = '[]' WHERE lap = 2", Broken::Lap),
        ("UPDATE seal SET form = 1 WHERE number = 2", Broken::Lap),
    ];
    for (change, wanted) in cases {
        let (_dir, mut logbook) = open();
        let session = three_laps(&mut logbook);
        tamper(&logbook, change);
        let found = logbook.verify().unwrap();
        assert_eq!(found[0].broken, Some(wanted(two(&session))), "{change}");
    }
    // A change of what laps refer to shows at the first lap that does.
    let (_dir, mut logbook) = open();
    let session = three_laps(&mut logbook);
    tamper(&logbook, "UPDATE task SET form = '{}'");
    let first = LapName { session, number: 1 };
    assert_eq!(logbook.verify().unwrap()[0].broken, Some(Broken::Lap(first)));
}

pub(crate) fn remark(kind: RemarkKind, subject: Subject, text: &str) -> Remark {
    Remark { kind, subject, made: "2026-03-01T12:00:00Z".into(), text: text.into() }
}

#[test]
fn a_lap_is_set_aside_and_taken_back_and_both_stay_on_record() {
    let (_dir, mut logbook) = open();
    let session = three_laps(&mut logbook);
    let second = LapName { session: session.clone(), number: 2 };
    let subject = Subject::Lap(second.clone());
    let away = remark(RemarkKind::SetAside, subject.clone(), "the window was covered");
    logbook.append_remark(&away, "r1").unwrap();
    let laps = logbook.laps().unwrap();
    assert_eq!(laps[1].set_aside.as_deref(), Some("the window was covered"));
    assert_eq!((laps[1].counted(), laps[0].set_aside.is_none()), (None, true));
    let mut back = remark(RemarkKind::TakenBack, subject, "it was not");
    back.made = "2026-03-01T12:00:01Z".into();
    logbook.append_remark(&back, "r2").unwrap();
    assert!(logbook.lap(&second).unwrap().unwrap().head.counted().is_some());
    assert_eq!(logbook.remarks().unwrap(), [away, back]);
    let nobody = LapName { session: SessionName::parse("owl-1").unwrap(), number: 1 };
    let refused = logbook.append_remark(&remark(RemarkKind::Note, Subject::Lap(nobody), "x"), "r3");
    assert!(matches!(refused, Err(LogbookError::NoSuch { .. })));
}

#[test]
fn a_changed_or_removed_remark_is_found() {
    for change in [
        "UPDATE remark SET text = 'fine' WHERE mark = 'r2'",
        "UPDATE remark SET kind = 'taken-back' WHERE mark = 'r2'",
        "DELETE FROM remark WHERE mark = 'r2'",
    ] {
        let (_dir, mut logbook) = open();
        let session = three_laps(&mut logbook);
        for mark in ["r1", "r2", "r3"] {
            let subject = Subject::Session(session.clone());
            logbook.append_remark(&remark(RemarkKind::Note, subject, "x"), mark).unwrap();
        }
        let whole = logbook.verify_remarks().unwrap();
        assert_eq!((whole.seals.len(), &whole.broken), (3, &None));
        tamper(&logbook, change);
        assert!(logbook.verify_remarks().unwrap().broken.is_some(), "{change}");
    }
}

#[test]
fn a_logbook_of_format_1_is_brought_up_and_its_seals_still_hold() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("logbook.db");
    let kept = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("kept/format-1.db");
    std::fs::copy(kept, &path).unwrap();
    let mut logbook = Logbook::open_to_write(&path).unwrap();
    let sealed = logbook.verify().unwrap();
    let state: Vec<_> = sealed.iter().map(|s| (s.name.to_string(), s.laps, &s.broken)).collect();
    assert_eq!(state, [("heron-1".to_owned(), 2, &None), ("wren-1".to_owned(), 2, &None)]);
    let laps = logbook.laps().unwrap();
    assert_eq!((laps.len(), laps[0].wall), (4, Some(Nanos(1_234_567_890))));
    assert_eq!(laps[3].settings.get("threads"), Some("2"));
    let task_number = logbook.task_number("still", &task("render {threads}")).unwrap();
    assert_eq!(task_number, Some(1), "the form of its task is still the same");
    assert_eq!(logbook.faults().unwrap(), Vec::<String>::new());
    // New laps go on its chain, and what format 2 added cannot be slipped into old laps.
    let session = logbook.open_session(&SessionName::parse("heron-1").unwrap()).unwrap();
    let (settings, body) = (Settings::default(), body());
    let still = ("still", &task("render {threads}"));
    logbook.append_lap(&session, &lap(3, still, &settings, &body)).unwrap();
    assert_eq!(logbook.verify().unwrap()[0].broken, None);
    tamper(&logbook, "UPDATE lap SET parts_ns = 1 WHERE number = 1 AND session = 1");
    let first = session.lap(1);
    assert_eq!(logbook.verify().unwrap()[0].broken, Some(Broken::Lap(first)));
}

#[test]
fn old_logbooks_are_read_without_being_touched_and_brought_up_when_something_is_recorded() {
    for format in 1..=7 {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("logbook.db");
        let kept = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("kept");
        std::fs::copy(kept.join(format!("format-{format}.db")), &path).unwrap();
        let before = std::fs::read(&path).unwrap();
        let logbook = Logbook::open(&path).unwrap();
        let sealed = logbook.verify().unwrap();
        assert!(!sealed.is_empty() && sealed.iter().all(|session| session.broken.is_none()));
        assert_eq!(logbook.strays().unwrap(), Vec::<String>::new(), "format {format}");
        let laps = logbook.laps().unwrap();
        drop(logbook);
        assert_eq!(std::fs::read(&path).unwrap(), before, "format {format}");
        assert_eq!(std::fs::read_dir(dir.path()).unwrap().count(), 1, "nothing is left beside it");
        let mut logbook = Logbook::open_to_write(&path).unwrap();
        let session = begin(&mut logbook, "plover", "new");
        assert_eq!(logbook.laps().unwrap(), laps);
        assert!(logbook.verify().unwrap().iter().all(|session| session.broken.is_none()));
        assert_eq!(session.name.to_string(), "plover-1");
        drop(logbook);
        assert_ne!(std::fs::read(&path).unwrap(), before);
    }
}

#[test]
fn what_is_opened_to_be_read_is_never_written_to() {
    let (dir, logbook) = open();
    drop(logbook);
    let mut reading = Logbook::open(&dir.path().join("logbook.db")).unwrap();
    let about = remark(RemarkKind::Note, Subject::Rig("heron".into()), "loud");
    assert!(reading.append_remark(&about, "r").is_err());
}
