//! Readings of what programs print, and of what they should not have printed.

use super::split::Parts;
use super::*;
use crate::spool;
use crate::spool::Spool;
use honest_lap_core::record::{Better, SplitRule, Template};
use honest_lap_core::unit::Decimals;
use honest_lap_core::unit::Nanos;
use proptest::prelude::*;

fn rule(unit: &str, find: Find) -> ReadingRule {
    let (name, better) = ("score".into(), Better::More);
    let (source, decimals) = (Source::Output, Decimals::Shown);
    ReadingRule {
        name,
        unit: unit.into(),
        better,
        source,
        find,
        decimals,
        reports_time: false,
        optional: false,
    }
}

fn after(text: &str) -> Find {
    Find::After(text.into())
}

/// Reads `rule` from a program that printed `printed`.
fn read(rule: &ReadingRule, printed: &str) -> Result<f64, String> {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("out");
    Spool::create(&path).unwrap().take(printed.as_bytes(), Nanos(1));
    let text = Text::Spool { path, total: printed.len() as u64 };
    let texts = Texts::from([("standard output".to_owned(), text)]);
    let reading = readings(std::slice::from_ref(rule), &texts).pop().unwrap();
    reading.value.ok_or(reading.seen)
}

#[test]
fn finds_the_number_behind_a_text() {
    for (unit, printed, value) in [
        ("", "Score: 812", 812.0),
        ("points", "a\nSky Score = 1,234.5 points\nb", 1_234.5),
        ("s", "Score:\t900.5 s (fine)", 900.5),
        ("ms", "Score 900.5ms", 0.9005),
        ("s", "Score: 00:01:23.45", 83.45),
        ("", "Score: -3.", -3.0),
        ("%", "Score: 85%", 85.0),
        ("", "Score: 1.2e+06", 1.2e6),
        ("s", "Score: 1.5E-05 s", 1.5e-5),
        ("", "Score: -0", 0.0),
        ("MB/s", "Score 420 MB/s", 420.0),
        ("GB/s", "Score (GB/s): 3.5", 3.5),
        ("ms/frame", "Score: 16.6 ms/frame", 16.6),
        ("ms", "Score: 16.6 msec", 0.0166),
        ("°C", "Score: 61.5 °C", 61.5),
    ] {
        let found = read(&rule(unit, after("Score")), printed);
        assert!(found.as_ref().is_ok_and(|v| (v - value).abs() < 1e-12), "{printed}: {found:?}");
    }
}

#[test]
fn what_is_not_sure_is_no_number_and_says_what_was_seen() {
    for (unit, printed, wanted) in [
        ("", "nothing", "no line of standard output has `Score`"),
        ("", "Score: 1\nScore: 2", "twice: `Score: 1` and `Score: 2`"),
        ("", "Score 1 Score 2", "stands there twice"),
        ("", "Score: good", "no number follows"),
        ("s", "Score: 900 ms", "has the unit `ms`, and s is declared"),
        ("", "Score: 12 kB", "has the unit `kB`, and none is declared"),
        ("points", "Score: 12pts", "`12pts` is no number"),
        ("points", "Score: 12 MB/s", "has the unit `MB/s`, and points is declared"),
        ("", "Score: 0x1F", "`0x1F` is no number"),
        ("", "Score: 5k", "`5k` is no number"),
        ("", "Score: 812/1000", "`812/1000` is no number"),
        ("", "Score: \u{ff11}\u{ff12}", "no number follows"),
        ("", "Score: NaN", "no number follows"),
        ("points", "Score: 0:52", "a clock's time"),
        ("", "Score: 1,234", "decimals or thousands"),
        ("", "Score: 812 900", "one number or two"),
    ] {
        let found = read(&rule(unit, after("Score")), printed).unwrap_err();
        assert!(found.contains(wanted), "{printed}: {found}");
    }
}

#[test]
fn a_pattern_may_name_its_number_and_its_unit() {
    let find = Find::Pattern(r"in (\d+) runs: (?<value>[\d.]+) (?<unit>\w+)".into());
    assert_eq!(read(&rule("ms", find.clone()), "in 12 runs: 1500 ms"), Ok(1.5));
    let other = read(&rule("ms", find), "in 12 runs: 1.5 s").unwrap_err();
    assert!(other.contains("has the unit `s`, and ms is declared"), "{other}");
    for (pattern, printed, number) in [
        (r"sky (\d+)", "sky 812.5", "812"),
        (r"(\d+)$", "sky -12", "12"),
        (r"sky ([\d.]+)", "sky 1.2e+06", "1.2"),
    ] {
        let cut = read(&rule("", Find::Pattern(pattern.into())), printed).unwrap_err();
        assert!(cut.contains(&format!("`{number}` is a part of a longer number")), "{cut}");
    }
    let twice = read(&rule("", Find::Pattern(r"(\d+)x".into())), "1x 2x").unwrap_err();
    assert!(twice.contains("matches there twice"), "{twice}");
}

#[test]
fn a_pointer_leads_through_json() {
    let json = r#"{"results":[{"total":812.25,"text":"1,234.5 ms","list":[1]}]}"#;
    let at = |pointer: &str, unit| read(&rule(unit, Find::Pointer(pointer.into())), json);
    assert_eq!(at("/results/0/total", ""), Ok(812.25));
    assert_eq!(at("/results/0/text", "ms"), Ok(1.2345));
    assert!(at("/results/0/text", "s").unwrap_err().contains("has the unit `ms`"));
    let text = |json: &str| read(&rule("", Find::Pointer("/a".into())), json);
    assert_eq!(text(r#"{"a":"1.2e6"}"#), Ok(1.2e6));
    assert!(text(r#"{"a":"12abc"}"#).unwrap_err().contains("is the text `12abc`"));
    assert!(at("/results/1/total", "").unwrap_err().contains("leads nowhere"));
    assert!(at("/results/0/list", "").unwrap_err().contains("is no number"));
    let broken = read(&rule("", Find::Pointer("/a".into())), "{\"a\":").unwrap_err();
    assert!(broken.contains("is not JSON"), "{broken}");
}

#[test]
fn a_file_that_is_not_there_is_told() {
    let file = Source::File(Template::parse("{lap_dir}/out.json").unwrap());
    let rule = ReadingRule { source: file, ..rule("", after("x")) };
    let reading = readings(&[rule], &Texts::new()).pop().unwrap();
    assert_eq!((reading.value, reading.seen.as_str()), (None, "{lap_dir}/out.json was not there"));
}

fn split(printed: &[(&str, u64)], counts: &[&str]) -> Parts {
    let dir = tempfile::tempdir().unwrap();
    let path = dir.path().join("out");
    let mut spool = Spool::create(&path).unwrap();
    printed.iter().for_each(|(line, at)| spool.take(line.as_bytes(), Nanos(*at)));
    let total = printed.iter().map(|(line, _)| line.len() as u64).sum();
    let texts = Texts::from([("standard output".to_owned(), Text::Spool { path, total })]);
    let part = |name: &str, from: Option<&str>| SplitRule {
        part: name.into(),
        from: from.map(str::to_owned),
    };
    let splits = Splits {
        parts: vec![
            part("load", None),
            part("draw", Some("loaded")),
            part("save", Some("^saving")),
        ],
        source: Source::Output,
        counts: counts.iter().map(|&name| name.to_owned()).collect(),
    };
    parts(&splits, &texts, Nanos(10_000_000_000))
}

#[test]
fn parts_end_where_the_next_begins_and_the_last_with_the_lap() {
    let lines = [("scene loaded\n", 2_000_000_000), ("saving\n", 9_000_000_000)];
    let found = split(&lines, &["draw"]);
    let times: Vec<Option<f64>> = found.readings.iter().map(|reading| reading.value).collect();
    assert_eq!(times, [Some(2.0), Some(7.0), Some(1.0)]);
    assert_eq!(found.counted, Some(Nanos(7_000_000_000)));
    assert_eq!(split(&lines, &[]).counted, None, "all of the lap counts");
}

#[test]
fn a_mark_that_is_missing_or_twice_takes_its_parts_with_it_and_no_others() {
    let value = |found: &Parts| -> Vec<bool> {
        found.readings.iter().map(|reading| reading.value.is_some()).collect()
    };
    let missing = split(&[("saving\n", 9)], &["draw"]);
    assert_eq!((value(&missing), missing.counted), (vec![false, false, true], None));
    assert!(missing.readings[0].seen.contains("no line of standard output"));
    let twice = split(&[("loaded\n", 1), ("loaded\n", 2), ("saving\n", 9)], &[]);
    assert!(twice.readings[1].seen.contains("twice"), "{:?}", twice.readings[1]);
    let backwards = split(&[("saving\n", 1), ("loaded\n", 9)], &[]);
    assert!(backwards.readings[1].seen.contains("another order"));
}

/// Reads `rule` from `printed` without a file between them.
fn read_text(rule: &ReadingRule, printed: &str) -> Result<f64, String> {
    let found = match &rule.find {
        Find::Pointer(pointer) => {
            find::at_pointer(&Ok(printed.as_bytes().to_vec()), pointer, "it", rule)
        }
        find => {
            let line = |text: &str| spool::Line { text: text.to_owned(), at: Nanos(0) };
            let lines: Vec<spool::Line> = printed.split('\n').map(line).collect();
            find::in_lines(find, &lines, "it", rule)
        }
    };
    found.map(|read| read.value)
}

proptest! {
    #[test]
    fn no_pattern_panics(pattern in "[ -~]{0,16}", printed in "[ -~]{0,24}") {
        let _ = read_text(&rule("s", Find::Pattern(pattern.clone())), &printed);
        let _ = read_text(&rule("", after(&pattern)), &printed);
        let _ = read_text(&rule("", Find::Pointer(pattern)), &printed);
    }

    #[test]
    fn whatever_is_printed_nothing_panics_and_a_number_is_the_one_that_stands_there(
        printed in "[ -~µ×\u{a0}\u{202f}\n]{0,40}",
        behind in "[0-9.,:' a-z%-]{0,14}",
        number in -100_000i64..100_000,
        unit in prop::sample::select(vec!["", "s", "ms", "points", "%"]),
    ) {
        for find in [after("Score"), Find::Pattern(r"(\d[\d.,]*)".into()), Find::Pointer("/a".into())] {
            let _ = read_text(&rule(unit, find), &printed);
        }
        // What stands behind a number may make it none; it never makes it another.
        let read = read_text(&rule("", after("Score")), &format!("Score {number};{behind}"));
        prop_assert_eq!(read, Ok(number as f64));
        let read = read_text(&rule("", after("Score")), &format!("Score {number}{behind}"));
        let digits: String = format!("{number}{behind}").chars().filter(char::is_ascii_digit).collect();
        // The one way for other digits to be meant: `1e3`.
        let all = format!("{number}{behind}");
        let powers: Vec<f64> = all.find('e').map_or_else(Vec::new, |at| {
            let rest = &all[at + 1..];
            let sign = usize::from(rest.starts_with('-'));
            let digits = rest[sign..].chars().take_while(char::is_ascii_digit).count();
            let power = &rest[..sign + digits];
            // A comma or an apostrophe may set thousands apart, or stand before decimals.
            let mantissas = ["", "."].map(|point| all[..at].replace([',', '\''], point));
            mantissas.iter().filter_map(|m| format!("{m}e{power}").parse().ok()).collect()
        });
        if let Ok(value) = read
            && !powers.contains(&value)
        {
            let shown: String = format!("{}", value.abs()).chars().filter(char::is_ascii_digit).collect();
            let shown = shown.trim_start_matches('0');
            prop_assert!(digits.trim_start_matches('0').starts_with(shown), "{} of {}", value, digits);
        }
    }
}
