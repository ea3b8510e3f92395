//! Passes: kept whole, sealed, cut without a frame being touched.

use crate::tests::{begin, body, lap, open, tamper, task};
use crate::{Broken, Logbook};
use honest_lap_core::record;
use honest_lap_core::record::{
    Cut, Faults, LapBody, LapName, Pass, PassAbout, RecordedPass, RemarkKind, Settings, Stretch,
};
use honest_lap_core::unit::Nanos;

#[test]
fn a_logbook_of_format_2_keeps_its_seals_and_takes_no_frames_into_old_laps() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("logbook.db");
    let kept = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("kept/format-2.db");
    std::fs::copy(kept, &path).unwrap();
    let logbook = Logbook::open(&path).unwrap();
    assert!(logbook.verify().unwrap().iter().all(|session| session.broken.is_none()));
    assert_eq!(logbook.verify_remarks().unwrap().broken, None);
    let laps = logbook.laps().unwrap();
    assert_eq!((laps.len(), laps[0].readings[0].value), (5, Some(812.0)));
    assert!(laps[4].set_aside.is_some());
    let first = laps[0].name.clone();
    let about = serde_json::to_string(&recorded(3).about).unwrap();
    tamper(&logbook, &format!("INSERT INTO pass (lap, about) VALUES (1, '{about}')"));
    assert_eq!(logbook.verify().unwrap()[0].broken, Some(Broken::Lap(first)));
}

#[test]
fn a_logbook_of_format_3_keeps_its_passes() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("logbook.db");
    let kept = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("kept/format-3.db");
    std::fs::copy(kept, &path).unwrap();
    let logbook = Logbook::open(&path).unwrap();
    let sealed = logbook.verify().unwrap();
    assert_eq!((sealed.len(), &sealed[0].broken), (1, &None));
    let name = LapName::parse("wren-1.1").unwrap();
    let pass = logbook.pass(&name).unwrap().unwrap();
    assert_eq!((pass.pass.shown.len(), pass.pass.presenting.len()), (1_200, 0));
    assert_eq!(pass.about.digest.against, record::Against::display(60.0));
    assert_eq!(
        record::Digest::of(&pass.pass, &Cut::default(), pass.about.digest.against).as_ref(),
        Some(&pass.about.digest)
    );
}

#[test]
fn a_logbook_of_format_4_keeps_its_searches_and_takes_no_series_into_old_laps() {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("logbook.db");
    let kept = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("kept/format-4.db");
    std::fs::copy(kept, &path).unwrap();
    let logbook = Logbook::open(&path).unwrap();
    assert_eq!(logbook.verify().unwrap()[0].broken, None);
    let (laps, tasks) = (logbook.laps().unwrap(), logbook.tasks().unwrap());
    assert_eq!((laps.len(), laps[0].readings[0].name.as_str()), (12, "load"));
    let rested = tasks.iter().find(|form| form.workload == "rest").unwrap();
    let work = rested.task.work.as_ref().and_then(|work| work.of(&Settings::default()));
    assert_eq!(work.map(|work| work.to_string()).as_deref(), Some("3 nap"));
    let series = "INSERT INTO chunk (lap, series, part, count, sha256, packed) VALUES (1, 'repeat-took', 0, 1, 'x', x'00')";
    tamper(&logbook, series);
    assert_eq!(logbook.verify().unwrap()[0].broken, Some(Broken::Lap(laps[0].name.clone())));
}

/// A pass of `n` frames.
pub(crate) fn recorded(n: u64) -> RecordedPass {
    let pass = Pass {
        shown: (0..n).map(|i| 16_000_000 + i * 7_919 % 900_000).collect(),
        graphics: vec![9_000_000; n as usize],
        presenting: (0..n).map(|i| 40_000 + i % 3_000).collect(),
        ..Pass::default()
    };
    let digest = record::Digest::of(&pass, &Cut::default(), record::Against::default()).unwrap();
    let about = PassAbout {
        log: "rings.csv".into(),
        log_sha256: None,
        read_as: "column 1, durations in milliseconds".into(),
        faults: Faults::default(),
        marks: Vec::new(),
        also: vec!["2 frames through Vulkan".into()],
        digest,
    };
    RecordedPass { about, pass }
}

#[test]
fn a_pass_comes_back_whole_and_is_sealed_frame_by_frame() {
    let (_dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "mark-1");
    let rings = ("rings", &task("rings"));
    let pass = recorded(200_000);
    let body = LapBody { pass: Some(Box::new(pass.clone())), ..body() };
    let name = session.lap(1);
    let settings = Settings::default();
    logbook.append_lap(&session, &lap(1, rings, &settings, &body)).unwrap();
    assert_eq!(logbook.pass(&name).unwrap(), Some(pass));
    let read = logbook.laps().unwrap()[0].value("average rate").unwrap();
    assert!((55.0..65.0).contains(&read), "{read}");
    assert_eq!(logbook.verify().unwrap()[0].broken, None);
    tamper(
        &logbook,
        "UPDATE chunk SET packed = (SELECT packed FROM chunk WHERE part = 1 AND series = 'shown')
         WHERE part = 3 AND series = 'shown'",
    );
    assert_eq!(logbook.verify().unwrap()[0].broken, Some(Broken::Lap(name.clone())));
    assert!(logbook.pass(&name).is_err(), "not what was said to be there");
}

#[test]
fn what_another_version_worked_out_is_worked_out_again_from_the_frames() {
    let (_dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "mark-1");
    let rings = ("rings", &task("rings"));
    let now = recorded(500);
    let mut then = now.clone();
    then.about.digest.version = 0;
    then.about.digest.sums.rate = 1.0;
    let body = LapBody { pass: Some(Box::new(then.clone())), ..body() };
    let name = session.lap(1);
    logbook.append_lap(&session, &lap(1, rings, &Settings::default(), &body)).unwrap();
    assert_eq!(logbook.pass(&name).unwrap(), Some(now.clone()));
    let rate = |logbook: &Logbook| logbook.laps().unwrap()[0].value("average rate");
    assert_eq!(rate(&logbook), Some(now.about.digest.sums.rate));
    assert_eq!(logbook.verify().unwrap()[0].broken, None, "what was written stands as it was");
    let stretch = Stretch { from: Nanos(0), to: Nanos(4_000_000_000) };
    let cut = Cut::without(vec![stretch]);
    let right = record::Digest::of(&now.pass, &cut, record::Against::default()).unwrap();
    let old = record::Digest { version: 0, ..right.clone() };
    let old = record::Digest { sums: record::Sums { rate: 2.0, ..old.sums.clone() }, ..old };
    logbook.append_cut(&name, &old, "2026-05-04T10:00:00Z", "cut-1").unwrap();
    assert_eq!(rate(&logbook), Some(right.sums.rate));
}

#[test]
fn a_cut_changes_the_figures_and_not_the_frames() {
    let (_dir, mut logbook) = open();
    let session = begin(&mut logbook, "heron", "mark-1");
    let rings = ("rings", &task("rings"));
    let pass = recorded(500);
    let body = LapBody { pass: Some(Box::new(pass.clone())), ..body() };
    let name = session.lap(1);
    logbook.append_lap(&session, &lap(1, rings, &Settings::default(), &body)).unwrap();
    let stretch = Stretch { from: Nanos(0), to: Nanos(4_000_000_000) };
    let cut =
        record::Digest::of(&pass.pass, &Cut::without(vec![stretch]), record::Against::default())
            .unwrap();
    logbook.append_cut(&name, &cut, "2026-05-04T10:00:00Z", "cut-1").unwrap();
    let said = &logbook.remarks().unwrap()[0];
    assert_eq!((said.kind, said.text.as_str()), (RemarkKind::Cut, "without 0–4 s"));
    let frames = |logbook: &Logbook| logbook.laps().unwrap()[0].value("frames");
    assert_eq!(frames(&logbook), Some(cut.sums.frames as f64));
    assert_eq!(logbook.all_digests().unwrap().get(&name), Some(&cut));
    assert_eq!(logbook.pass(&name).unwrap(), Some(pass));
}
