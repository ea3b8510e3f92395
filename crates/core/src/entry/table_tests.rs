//! Tables as people paste them, and as they should not.

use super::*;
use crate::record::{Find, Kind, LapName, ReadingRule, Rest, Source, Task};
use proptest::prelude::*;

pub(crate) fn study() -> Study {
    let score = ReadingRule {
        name: "score".into(),
        unit: "points".into(),
        better: Better::More,
        source: Source::Output,
        find: Find::Eyes,
        decimals: Decimals::Shown,
        reports_time: false,
    };
    let hand = crate::record::Launch::Direct(Vec::new());
    let task = Task {
        kind: Kind::Task,
        command: None,
        by_hand: Some("watch".into()),
        readings: vec![score],
        ..Task::of(hand)
    };
    let workload = |name: &str, vary: Vec<(String, Vec<String>)>| Workload {
        name: name.into(),
        about: None,
        task: task.clone(),
        vary,
        laps: 3,
        warm_up: 0,
        rest: Rest::default(),
        limit: Nanos(1),
        versions: Vec::new(),
        inputs: Vec::new(),
        keep: false,
        weight: 1.0,
        group: None,
        jobs_a_month: None,
    };
    let encoders = vec!["hardware".to_owned(), "software".to_owned()];
    let workloads = vec![
        workload("reel", vec![("encoder".to_owned(), encoders)]),
        workload("still", Vec::new()),
    ];
    Study { margin: 0.02, workloads, ..Study::default() }
}

fn table(text: &str, common: &Common) -> Result<Vec<Entry>, EntryError> {
    let mut lines = text.lines().map(|line| line.split(';').map(str::to_owned).collect());
    let headings: Vec<String> = lines.next().unwrap_or_default();
    let rows: Vec<Vec<String>> = lines.collect();
    entries(&study(), &headings, &rows, common)
}

#[test]
fn reads_a_table_as_people_paste_it() {
    let text = "rig;workload;encoder;time;score [points]\n\
                heron;reel;hardware;5:41;1,234.5\n\
                wren;still;;0:52.4;\n\
                ;;;;\n\
                wren;still;;;812 points";
    let found = table(text, &Common::default()).unwrap();
    assert_eq!(found.len(), 3);
    assert_eq!(found[0].time, Some((Nanos::from_seconds(341), Nanos::from_seconds(1))));
    assert_eq!(found[0].settings.get("encoder"), Some("hardware"));
    assert_eq!((found[0].readings[0].value, found[0].readings[0].step), (Some(1234.5), Some(0.1)));
    assert_eq!((found[1].row, found[1].time.unwrap().1), (2, Nanos(100_000_000)));
    assert_eq!((found[2].time, found[2].readings[0].value), (None, Some(812.0)));
}

#[test]
fn what_every_row_shares_may_be_left_out_and_a_heading_may_hold_the_unit() {
    let common = Common {
        rig: Some("heron".into()),
        workload: Some("reel".into()),
        settings: vec![("encoder".into(), "software".into())],
    };
    let found = table("time [s]\n341.25\n340,1", &common).unwrap();
    assert_eq!(found[0].time, Some((Nanos(341_250_000_000), Nanos(10_000_000))));
    assert_eq!(found[1].time, Some((Nanos(340_100_000_000), Nanos(100_000_000))));
    assert_eq!(found[1].settings.to_string(), "encoder=software");
}

#[test]
fn what_cannot_be_read_says_where_and_what_to_do() {
    let rig = Common { rig: Some("heron".into()), ..Common::default() };
    for (text, wanted) in [
        ("workload;time\nreel;5:41", "row 1, `encoder`: `encoder` is varied, and not given"),
        ("workload;encoder;time\nreel;fast;5:41", "`fast` is no value of `encoder`"),
        ("workload;time\nfilm;5:41", "row 1, `workload`: the study has no workload `film`"),
        ("time\n5:41", "no workload is named"),
        ("workload;time\nstill;52", "row 1, `time`: `52` is not a span of time"),
        ("workload;time\nstill;0:00", "is no time at all"),
        ("workload;speed\nstill;5", "`speed` is nothing that is read of it"),
        ("workload;score\nstill;1,234", "decimals or thousands"),
        ("workload;score\nstill;12 kB", "`12 kB` is in `kB`"),
        ("workload;time\nstill", "row 1: 1 cells stand under 2 headings"),
        ("workload;time\nstill;", "row 1: nothing was read"),
        ("workload;time", "it has no rows"),
    ] {
        let err = table(text, &rig).unwrap_err();
        assert!(err.to_string().contains(wanted), "{text}: {err}");
        assert!(!err.remedy.is_empty());
    }
    let unnamed = table("workload;time\nstill;5:41", &Common::default()).unwrap_err();
    assert!(unnamed.to_string().contains("no rig is named"), "{unnamed}");
}

#[test]
fn a_slipped_digit_is_questioned_and_a_slow_rig_is_not() {
    let common =
        Common { rig: Some("heron".into()), workload: Some("still".into()), settings: Vec::new() };
    let typed = table("time\n5:41\n5:39\n57:30", &common).unwrap();
    let found = slips(&typed, &[]);
    assert_eq!((found.len(), found[0].row, found[0].usual), (1, 3, 340.0));
    let name = LapName::parse("wren-1.1").unwrap();
    let lap = LapHead::done(name, "still", Settings::default(), Nanos::from_seconds(350));
    let alone =
        |text: &str| slips(&table(text, &common).unwrap(), std::slice::from_ref(&lap)).len();
    assert_eq!((alone("time\n35 s"), alone("time\n5:50"), alone("time\n17:30")), (1, 0, 0));
    assert_eq!(
        slips(&table("time\n35 s", &common).unwrap(), &[]),
        [],
        "nothing to hold it against"
    );
}

proptest! {
    #[test]
    fn never_panics_and_never_takes_what_is_no_number(text in "\\PC{0,16}", unit in "\\PC{0,4}") {
        let common = Common {
            rig: Some("heron".into()),
            workload: Some("still".into()),
            settings: Vec::new(),
        };
        let headings = [format!("score [{unit}]"), "time".to_owned()];
        let read = entries(&study(), &headings, &[vec![text.clone(), String::new()]], &common);
        if let Ok(found) = read {
            prop_assert!(text.contains(|c: char| c.is_ascii_digit()), "{} gave {:?}", text, found);
        }
        let _ = entries(&study(), &headings, &[vec![String::new(), text]], &common);
    }
}
