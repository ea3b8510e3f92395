//! Tables as people keep them, and as they should not.

use super::*;
use crate::entry::example::study;
use proptest::prelude::*;

fn grid(text: &str) -> Grid {
    Grid::new(text.lines().map(|line| line.split(';').map(str::to_owned).collect()).collect())
}

fn read(text: &str, wishes: &Wishes) -> Result<Sheet, Vec<Mistake>> {
    read_sheet(&grid(text), &study(), wishes)
}

fn told(text: &str, wishes: &Wishes) -> Vec<String> {
    let mistakes = read(text, wishes).unwrap_err();
    mistakes.iter().map(|mistake| format!("{}: {}", mistake.place, mistake.problem)).collect()
}

/// Returns every lap as `rig workload settings: values`.
fn laps(sheet: &Sheet) -> Vec<String> {
    let one = |entry: &Entry| {
        let mut values: Vec<String> =
            entry.values().map(|(name, value)| format!("{name} {value}")).collect();
        values.extend(entry.failed.iter().map(|why| format!("failed {why}")));
        let settings = entry.settings.to_string();
        [&entry.rig, &entry.workload, &settings, &values.join(", ")].map(String::as_str).join(" ")
    };
    sheet.entries.iter().map(one).collect()
}

#[test]
fn a_lap_a_row_is_read_as_people_paste_it() {
    let text = "rig;workload;encoder;time;score [points]\n\
                heron;reel;hardware;5:41;1,234.5\n\
                wren;still;;0:52.4;\n\
                ;;;;\n\
                wren;still;;;812 points";
    let sheet = read(text, &Wishes::default()).unwrap();
    assert_eq!(
        laps(&sheet),
        [
            "heron reel encoder=hardware time 341, score 1234.5",
            "wren still  time 52.4",
            "wren still  score 812"
        ]
    );
    assert_eq!(sheet.entries[0].time.unwrap().1, Nanos::from_seconds(1));
    assert_eq!(sheet.entries[0].readings[0].step, Some(0.1));
    assert_eq!(sheet.entries[2].place.to_string(), "E5");
}

#[test]
fn a_rig_a_row_and_a_workload_a_column_as_an_untidy_sheet_has_them() {
    let text = "Results of the spring;;;;;\n\
                ;;;;;\n\
                Card;Driver;Reel (Software), secs;Scene 1 (m:ss);still · score;Comments\n\
                Heron;551.2;90;7:52;812;new paste\n\
                ;;;;;\n\
                The Osprey;551.4;OOM;n/a;-;needs 12 GB\n\
                wren;;95.5;8:01;;\n\
                Average;;92.75;7:56;812;";
    let wishes =
        Wishes { called: vec![("Scene 1 (m:ss)".into(), "still".into())], ..Wishes::default() };
    let sheet = read(text, &wishes).unwrap();
    assert_eq!(
        laps(&sheet),
        [
            "heron reel encoder=software time 90",
            "heron still  time 472, score 812",
            "the-osprey reel encoder=software failed OOM",
            "wren reel encoder=software time 95.5",
            "wren still  time 481",
        ]
    );
    let osprey = NewRig { name: "the-osprey".into(), title: "The Osprey".into() };
    assert_eq!(sheet.new_rigs, [osprey]);
    assert_eq!(sheet.left_out, ["Driver", "Comments"]);
    assert_eq!((sheet.sums, sheet.nothing), (vec!["Average".to_owned()], 2));
    let seen: Vec<(&str, Nanos)> =
        sheet.understood.iter().map(|one| (one.seen.as_str(), one.time)).collect();
    assert_eq!(seen, [("7:52", Nanos::from_seconds(472))], "plain seconds are not told");
}

#[test]
fn several_readings_of_a_row_are_one_lap_and_a_measure_twice_is_two() {
    let sheet =
        read("rig;still [s];still;still · score\nheron;341;5:39;812", &Wishes::default()).unwrap();
    assert_eq!(laps(&sheet), ["heron still  time 341, score 812", "heron still  time 339"]);
    let wishes = Wishes { workload: Some("still".into()), ..Wishes::default() };
    let sheet = read("rig;run 1;run 2;run 3\nheron;5:41;5:39;DNF", &wishes).unwrap();
    assert_eq!(
        laps(&sheet),
        ["heron still  time 341", "heron still  time 339", "heron still  failed DNF"]
    );
}

#[test]
fn days_are_read_or_the_same_for_all() {
    let on = |text: &str| Date::parse(text).ok();
    let wishes = Wishes { on: on("2026-05-01"), ..Wishes::default() };
    let sheet = read("rig;tested on;still\nheron;14.3.2026;5:41\nwren;;5:52", &wishes).unwrap();
    let days: Vec<Option<Date>> = sheet.entries.iter().map(|entry| entry.on).collect();
    assert_eq!(days, [on("2026-03-14"), on("2026-05-01")]);
    let wrong = told("rig;date;still\nheron;3/4/2026;5:41", &Wishes::default());
    assert!(wrong[0].starts_with("B2: `3/4/2026` is not a day"), "{wrong:?}");
}

#[test]
fn what_is_the_same_for_all_rows_may_be_left_out() {
    let wishes = Wishes {
        rig: Some("heron".into()),
        workload: Some("reel".into()),
        settings: vec![("encoder".into(), "software".into())],
        ..Wishes::default()
    };
    let sheet = read("time [s]\n341.25\n340,1", &wishes).unwrap();
    assert_eq!(sheet.entries[0].time, Some((Nanos(341_250_000_000), Nanos(10_000_000))));
    assert_eq!(sheet.entries[1].time, Some((Nanos(340_100_000_000), Nanos(100_000_000))));
    assert_eq!(sheet.entries[1].settings.to_string(), "encoder=software");
    let bare = Wishes { form: Some(Form::Unit("min".into())), ..wishes };
    assert_eq!(laps(&read("time\n1.5", &bare).unwrap()), ["heron reel encoder=software time 90"]);
}

#[test]
fn everything_that_is_wrong_is_told_together_with_its_cell() {
    let text = "rig;workload;encoder;time;score\n\
                heron;reel;;5:41;\n\
                heron;film;;5:41;\n\
                ;still;;5:41;\n\
                heron;still;turbo;;8x\n\
                wren;still;;52;\n\
                wren;still;;53;";
    let mistakes = read(text, &Wishes::default()).unwrap_err();
    let all: Vec<String> =
        mistakes.iter().map(|m| format!("{} +{}: {}", m.place, m.also, m.problem)).collect();
    assert_eq!(
        all,
        [
            "C2 +0: reel varies `encoder`, and it is not given",
            "B3 +0: the study has no workload `film`",
            "A4 +0: no rig is named",
            "C5 +0: still does not vary `encoder`",
            "D6 +1: `52` is a number without a unit",
        ]
    );
    assert!(mistakes.iter().all(|mistake| !mistake.remedy.is_empty()));
}

#[test]
fn a_table_that_says_nothing_is_told_so() {
    let rig = Wishes { rig: Some("heron".into()), ..Wishes::default() };
    assert_eq!(told("rig;still", &rig), ["A1: the table has no values"]);
    assert_eq!(told("a;b\n1;2", &rig), ["A1: no row of the table says what its columns are"]);
    assert_eq!(told("", &rig), ["A1: no row of the table says what its columns are"]);
    assert_eq!(told("time\n5:41", &rig), ["A2: no workload is named"]);
    assert_eq!(told("still\n5:41", &Wishes::default()), ["A2: no column names the rigs"]);
    let unknown = told("rig;still;Scene 2\nheron;5:41;5:39", &rig);
    assert_eq!(unknown, ["C1: the study has no workload and no measure `Scene 2`"]);
    let left = read("rig;still;Scene 2\nheron;5:41;to come", &rig).unwrap();
    assert_eq!(left.left_out, ["Scene 2"]);
    let nothing = read("rig;still\nheron;n/a", &rig).unwrap();
    assert_eq!((nothing.entries.len(), nothing.nothing), (0, 1), "it says so itself");
}

#[test]
fn what_a_spreadsheet_made_of_minutes_is_asked_about() {
    let text = "rig;still\nheron;7:52:00\nwren;8:01:00";
    let asked = told(text, &Wishes::default());
    assert_eq!(asked, ["B2: `7:52:00` has hours; a spreadsheet makes it of `7:52` as well"]);
    let minutes = Wishes { form: Some(Form::MinutesSeconds), ..Wishes::default() };
    assert_eq!(laps(&read(text, &minutes).unwrap())[0], "heron still  time 472");
    let sure = read("rig;still\nheron;7:52:00\nwren;8:01:30", &Wishes::default()).unwrap();
    assert_eq!(
        laps(&sure)[0],
        "heron still  time 28320",
        "seconds are written, so hours are meant"
    );
}

proptest! {
    #[test]
    fn never_panics_and_never_takes_what_is_no_number(text in "\\PC{0,16}", unit in "\\PC{0,4}") {
        let wishes = Wishes {
            rig: Some("heron".into()),
            workload: Some("still".into()),
            ..Wishes::default()
        };
        let headings = vec![format!("score [{unit}]"), "time".to_owned()];
        for cells in [vec![text.clone(), String::new()], vec![String::new(), text.clone()]] {
            let grid = Grid::new(vec![headings.clone(), cells]);
            for entry in read_sheet(&grid, &study(), &wishes).map(|sheet| sheet.entries).unwrap_or_default() {
                let digits = text.chars().any(|c| c.is_ascii_digit());
                prop_assert!(digits || entry.failed.is_some(), "{} gave {:?}", text, entry);
            }
        }
    }

    #[test]
    fn any_table_is_read_or_refused(rows in prop::collection::vec(prop::collection::vec("[a-z0-9:. ;()/-]{0,8}|rig|still|time|reel", 0..5), 0..6)) {
        let _ = read_sheet(&Grid::new(rows), &study(), &Wishes::default());
    }
}

#[test]
fn shares_that_a_spreadsheet_may_have_kept_of_one_are_asked_about() {
    let mut study = study();
    study.workloads[1].task.readings[0].unit = "%".into();
    let said = |cells: &str| {
        let rows = format!("rig;still · score\n{cells}");
        let rows = rows.lines().map(|line| line.split(';').map(str::to_owned).collect());
        read_sheet(&Grid::new(rows.collect()), &study, &Wishes::default())
    };
    let wrong = said("heron;0.4\nwren;0,55").unwrap_err();
    assert_eq!(wrong[0].problem, "`0.4` of a measure in % may be 0.4 % or 40 %");
    let values = |cells: &str| {
        let entries = said(cells).unwrap().entries;
        entries.iter().map(|entry| entry.readings[0].value).collect::<Vec<_>>()
    };
    assert_eq!(values("heron;0.4 %\nwren;0.55 %"), [Some(0.4), Some(0.55)]);
    assert_eq!(values("heron;40\nwren;0.55"), [Some(40.0), Some(0.55)]);
}

#[test]
fn of_several_measures_the_one_that_is_said_is_read() {
    let mut study = study();
    let task = &mut study.workloads[1].task;
    task.kind = crate::record::Kind::Score;
    let copy = crate::record::ReadingRule { name: "copy".into(), ..task.readings[0].clone() };
    task.readings.push(copy);
    let said = |measure: Option<&str>| {
        let wishes = Wishes { measure: measure.map(str::to_owned), ..Wishes::default() };
        read_sheet(&grid("rig;still\nheron;812"), &study, &wishes)
    };
    assert_eq!(said(None).unwrap_err()[0].problem, "still has several measures");
    assert_eq!(said(Some("copy")).unwrap().entries[0].readings[0].name, "copy");
}
