//! Sixty sheets as people keep them: each is read rightly, or refused with its cell and the reason.

use super::*;
use crate::entry::example::study;

/// What is asked of a sheet beside it, by a sign: `rig:heron unit:s column:Scene 1=still on:2026-03-14`.
fn wishes(words: &str) -> Wishes {
    let mut wishes = Wishes::default();
    for word in words.split('|').filter(|word| !word.is_empty()) {
        let (key, value) = word.split_once(':').unwrap();
        match key {
            "rig" => wishes.rig = Some(value.to_owned()),
            "workload" => wishes.workload = Some(value.to_owned()),
            "unit" => wishes.form = Form::parse(value, &[]),
            "on" => wishes.on = Date::parse(value).ok(),
            "column" => {
                let (from, to) = value.split_once('=').unwrap();
                wishes.called.push((from.to_owned(), to.to_owned()));
            }
            "with" => {
                let (name, value) = value.split_once('=').unwrap();
                wishes.settings.push((name.to_owned(), value.to_owned()));
            }
            other => panic!("{other}"),
        }
    }
    wishes
}

/// Returns what a sheet comes to: its laps, or its mistakes.
fn came(sheet: &str, asked: &str) -> Vec<String> {
    let rows = sheet.lines().map(|line| line.split(';').map(str::to_owned).collect());
    let grid = Grid::new(rows.collect());
    match read_sheet(&grid, &study(), &wishes(asked)) {
        Ok(sheet) => sheet.entries.iter().map(lap).collect(),
        Err(mistakes) => {
            let told = |one: &Mistake| match one.also {
                0 => format!("{}! {}", one.place, one.problem),
                also => format!("{}+{also}! {}", one.place, one.problem),
            };
            mistakes.iter().map(told).collect()
        }
    }
}

fn lap(entry: &Entry) -> String {
    let mut words = vec![entry.rig.clone(), entry.workload.clone()];
    words.extend(entry.settings.iter().map(|(_, value)| value.to_owned()));
    words.extend(entry.values().map(|(name, value)| match name {
        "time" => format!("{value}s"),
        name => format!("{name}={value}"),
    }));
    words.extend(entry.failed.iter().map(|why| format!("failed:{why}")));
    words.extend(entry.on.iter().map(ToString::to_string));
    words.join(" ")
}

/// The sheet, what is asked beside it, and what it comes to.
const HABITS: [(&str, &str, &[&str]); 60] = [
    // Layouts.
    ("rig;workload;time\nheron;still;5:41", "", &["heron still 341s"]),
    ("Rig;Test;Time\nHeron;Still;5:41", "", &["heron still 341s"]),
    ("rig;still\nheron;5:41", "", &["heron still 341s"]),
    (";still\nheron;5:41", "", &["heron still 341s"]),
    ("Card;Still\nHeron;5:41", "", &["heron still 341s"]),
    ("Which;Still\nHeron;5:41", "", &["heron still 341s"]),
    ("Results\n\nrig;still\nheron;5:41", "", &["heron still 341s"]),
    ("Results of heron;and wren\nrig;still\nheron;5:41", "", &["heron still 341s"]),
    (";;\n;rig;still\n;heron;5:41", "", &["heron still 341s"]),
    ("rig;;still\nheron;;5:41", "", &["heron still 341s"]),
    ("rig;still\n\nheron;5:41\n;\nwren;5:52\n", "", &["heron still 341s", "wren still 352s"]),
    ("rig;still\nheron;5:41;stray words", "", &["heron still 341s"]),
    ("rig;still\nheron;5:41\nAverage;5:41", "", &["heron still 341s"]),
    ("rig;still\nheron;5:41\nMedian of all;5:41", "", &["heron still 341s"]),
    ("time\n5:41\n5:39", "rig:heron|workload:still", &["heron still 341s", "heron still 339s"]),
    (
        "rig;run 1;run 2;run 3\nheron;5:41;5:39;5:40",
        "workload:still",
        &["heron still 341s", "heron still 339s", "heron still 340s"],
    ),
    ("rig;Lap 1;Lap 2\nheron;5:41;-", "workload:still", &["heron still 341s"]),
    (
        "rig;workload;encoder;time\nheron;reel;software;90 s\nheron;reel;hardware;30 s",
        "",
        &["heron reel software 90s", "heron reel hardware 30s"],
    ),
    ("rig;encoder;reel\nheron;Software;90 s", "", &["heron reel software 90s"]),
    ("rig;reel\nheron;90 s", "with:encoder=software", &["heron reel software 90s"]),
    // Headings.
    ("rig;still [s]\nheron;341", "", &["heron still 341s"]),
    ("rig;still (sec)\nheron;341", "", &["heron still 341s"]),
    ("rig;Still, secs\nheron;341,5", "", &["heron still 341.5s"]),
    ("rig;still in minutes\nheron;5.5", "", &["heron still 330s"]),
    ("rig;still (ms)\nheron;850", "", &["heron still 0.85s"]),
    ("rig;still [h]\nheron;1.5", "", &["heron still 5400s"]),
    ("rig;still (m:ss)\nheron;7:52", "", &["heron still 472s"]),
    ("rig;still [hh:mm:ss]\nheron;0:07:52", "", &["heron still 472s"]),
    ("rig;still (h:mm)\nheron;1:42", "", &["heron still 6120s"]),
    ("rig;reel encoder=software [s]\nheron;90", "", &["heron reel software 90s"]),
    ("rig;reel (software) [s]\nheron;90", "", &["heron reel software 90s"]),
    ("rig;Reel Hardware s\nheron;90", "", &["heron reel hardware 90s"]),
    ("rig;still · score\nheron;812", "", &["heron still score=812"]),
    ("rig;still score [points]\nheron;812", "", &["heron still score=812"]),
    ("rig;Scene 1\nheron;5:41", "column:Scene 1=still", &["heron still 341s"]),
    ("rig;Scene 1 [s]\nheron;341", "column:scene 1=still", &["heron still 341s"]),
    ("rig;Scene 1\nheron;341", "column:Scene 1=still|unit:s", &["heron still 341s"]),
    ("rig;still;Extra\nheron;5:41;77", "column:Extra=", &["heron still 341s"]),
    ("rig;still;Comments;Driver\nheron;5:41;1;551", "", &["heron still 341s"]),
    // Cells.
    ("rig;still\nheron;0:52,4", "", &["heron still 52.4s"]),
    ("rig;still\nheron;3h20m", "", &["heron still 12000s"]),
    ("rig;still\nheron;341.2 s", "", &["heron still 341.2s"]),
    ("rig;still [s]\nheron;5 min 41 s", "", &["heron still 341s"]),
    ("rig;still · score\nheron;8,120.5", "", &["heron still score=8120.5"]),
    ("rig;still · score\nheron;8 120", "", &["heron still score=8120"]),
    ("rig;still · score\nheron;8.120,5 points", "", &["heron still score=8120.5"]),
    ("rig;still\nheron;n/a\nwren;5:52", "", &["wren still 352s"]),
    (
        "rig;still\nheron;DNF\nwren;crashed after 2 min",
        "",
        &["heron still failed:DNF", "wren still failed:crashed after 2 min"],
    ),
    ("rig;date;still\nheron;14.3.2026;5:41", "", &["heron still 341s 2026-03-14"]),
    ("rig;still\nheron;5:41", "on:2026-03-14", &["heron still 341s 2026-03-14"]),
    // What could be meant otherwise is refused.
    ("rig;still\nheron;341\nwren;352", "", &["B2+1! `341` is a number without a unit"]),
    (
        "rig;still · score\nheron;1,234",
        "",
        &["B2! `1,234` is not a number: it could have decimals or thousands there"],
    ),
    (
        "rig;still\nheron;5:75",
        "",
        &[
            "B2! `5:75` is not a span of time: minutes and seconds after a colon have two digits, below 60",
        ],
    ),
    (
        "rig;still\nheron;~5:41",
        "",
        &["B2! `~5:41` is not a span of time: every part between colons must be a number"],
    ),
    (
        "rig;still\nheron;7:52:00",
        "",
        &["B2! `7:52:00` has hours; a spreadsheet makes it of `7:52` as well"],
    ),
    ("rig;still · score [MB]\nheron;812", "", &["B2! `812` is in `MB`"]),
    ("rig;Scene 2\nheron;5:41", "", &["B1! the study has no workload and no measure `Scene 2`"]),
    (
        "rig;still;Scene 2\nheron;5:41;5:39",
        "",
        &["C1! the study has no workload and no measure `Scene 2`"],
    ),
    ("rig;still\n;5:41", "", &["A2! no rig is named"]),
    (
        "rig;date;still\nheron;3/4/2026;5:41",
        "",
        &[
            "B2! `3/4/2026` is not a day: it is one day where days come first, and another where months do",
        ],
    ),
];

#[test]
fn every_habit_is_read_rightly_or_refused_with_its_cell() {
    let mut wrong = Vec::new();
    for (sheet, asked, wanted) in HABITS {
        let found = came(sheet, asked);
        if found != wanted {
            wrong.push(format!("{sheet:?} {asked}\n    is {found:?}\n    and not {wanted:?}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), HABITS.len(), wrong.join("\n"));
}
