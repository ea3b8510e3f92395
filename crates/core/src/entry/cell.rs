//! What one cell says: a value, nothing, or that the try failed.

use super::form::Form;
use crate::record::{Measure, SECONDS, plain_name};
use crate::unit::{Decimals, Nanos, parse_number, read_time, same_unit, seconds_in, written};

/// What a cell says.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Said {
    /// Nothing was measured.
    Nothing,
    /// It was tried, and failed; in the cell's own words.
    Failed(String),
    /// A value in the measure's unit, and the step in which it was read.
    Value { value: f64, step: f64 },
}

/// What is wrong with a cell, and what to do about it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Wrong {
    pub(super) problem: String,
    pub(super) remedy: String,
}

impl Wrong {
    pub(super) fn new(problem: impl Into<String>, remedy: impl Into<String>) -> Self {
        Self { problem: problem.into(), remedy: remedy.into() }
    }
}

/// Words for a value that there is not.
const NOTHING: [&str; 14] = [
    "n-a",
    "na",
    "tbd",
    "todo",
    "none",
    "null",
    "nan",
    "missing",
    "not-tested",
    "untested",
    "not-measured",
    "not-run",
    "skipped",
    "skip",
];
/// Words with which begins what is said of a try that failed.
const FAILED: [&str; 20] = [
    "crash",
    "dnf",
    "oom",
    "fail",
    "error",
    "err",
    "hang",
    "hung",
    "freeze",
    "froze",
    "frozen",
    "timeout",
    "timed-out",
    "out-of-memory",
    "abort",
    "did-not-finish",
    "did-not-start",
    "would-not-start",
    "black-screen",
    "killed",
];

/// Returns what `text` says of `measure`, in a column that is written in `form`.
pub(super) fn said(text: &str, measure: &Measure, form: Option<&Form>) -> Result<Said, Wrong> {
    let text = text.trim();
    let word = plain_name(text);
    if word.is_empty() || NOTHING.contains(&word.as_str()) {
        return Ok(Said::Nothing);
    }
    let begins = |with: &&str| word.strip_prefix(*with).is_some_and(ends_word);
    if FAILED.iter().any(begins) {
        return Ok(Said::Failed(text.to_owned()));
    }
    let (value, step) = match measure.unit == SECONDS {
        true => time(text, form)?,
        false => number(text, form, measure)?,
    };
    Ok(Said::Value { value, step })
}

/// Returns whether a word may go on with `rest`: `crash`, `crashed`, `crash at 40 %`, but not `errand`.
fn ends_word(rest: &str) -> bool {
    rest.is_empty()
        || rest.starts_with('-')
        || ["ed", "es", "s", "ure", "or", "ored"].iter().any(|end| {
            rest.strip_prefix(end).is_some_and(|rest| rest.is_empty() || rest.starts_with('-'))
        })
}

const HOW_TIME: &str = "write it as it stands there: 5:41, 0:52.4, 3h20m, 341.2 s";
const HOW_UNIT: &str = "say the unit in the heading, such as [s] or (m:ss), or with --unit";
const HOW_NUMBER: &str = "write it with decimals only: 1234.5";

fn time(text: &str, form: Option<&Form>) -> Result<(f64, f64), Wrong> {
    let bare = !text.contains(|c: char| c.is_alphabetic() || c == ':' || c == 'µ');
    let parts = text.split(':').count();
    let whole = match (form, parts) {
        (Some(Form::Unit(unit)), _) if bare && seconds_in(unit).is_some() => {
            format!("{text} {unit}")
        }
        (Some(Form::Unit(unit)), _) if bare => {
            return Err(Wrong::new(
                format!("`{text}` is in `{unit}`, and a time is wanted"),
                HOW_UNIT,
            ));
        }
        _ if bare => {
            return Err(Wrong::new(format!("`{text}` is a number without a unit"), HOW_UNIT));
        }
        // A spreadsheet makes 7:52:00 of what is typed as 7:52.
        (Some(Form::MinutesSeconds), 3) => match text.strip_suffix(":00") {
            Some(short) => short.to_owned(),
            None => {
                return Err(Wrong::new(
                    format!("`{text}` has hours, and its heading says (m:ss)"),
                    HOW_UNIT,
                ));
            }
        },
        (Some(Form::HoursMinutes), 2) => format!("{text}:00"),
        (Some(Form::HoursMinutesSeconds), 2) => {
            return Err(Wrong::new(
                format!("`{text}` has two parts, and its heading says (h:mm:ss)"),
                HOW_UNIT,
            ));
        }
        _ => text.to_owned(),
    };
    let (span, step) = read_time(&whole).map_err(|err| Wrong::new(err.problem, HOW_TIME))?;
    if span == Nanos(0) {
        return Err(Wrong::new(format!("`{text}` is no time at all"), HOW_TIME));
    }
    // Of hours and minutes the seconds were not read.
    let step = if form == Some(&Form::HoursMinutes) && parts == 2 { 60.0 } else { step.seconds() };
    Ok((span.seconds(), step))
}

fn number(text: &str, form: Option<&Form>, measure: &Measure) -> Result<(f64, f64), Wrong> {
    let none = || Wrong::new(format!("`{text}` is not a number"), HOW_NUMBER);
    let heading = match form {
        Some(Form::Unit(unit)) => Some(unit.as_str()),
        Some(_) => {
            return Err(Wrong::new(
                format!("{} is no time, and its heading says minutes and seconds", measure.name),
                HOW_UNIT,
            ));
        }
        None => None,
    };
    let own = |seen: &str| same_unit(seen, &measure.unit);
    // A cell may hold nothing but a number, thousands apart: `8 120`.
    if let (Ok(read), true) = (parse_number(text, Decimals::Shown), heading.is_none_or(own)) {
        return Ok((read.value, read.step));
    }
    let found = written(text, &measure.unit).ok_or_else(none)?;
    let found = found.map_err(|err| Wrong::new(err.problem, HOW_NUMBER))?;
    // What stands behind a number in a cell is its unit, or the cell is no number.
    let behind = found.rest.trim();
    let seen = found.unit.or((!behind.is_empty()).then_some(behind)).or(heading);
    if let Some(seen) = seen.filter(|seen| !own(seen)) {
        let declared = if measure.unit.is_empty() { "no unit" } else { &measure.unit };
        let remedy = format!("the study reads {} in {declared}", measure.name);
        return Err(Wrong::new(format!("`{text}` is in `{seen}`"), remedy));
    }
    if !behind.is_empty() && found.unit.is_some() {
        return Err(none());
    }
    let read = parse_number(found.number, Decimals::Shown);
    let read = read.map_err(|err| Wrong::new(err.problem, HOW_NUMBER))?;
    Ok((read.value, read.step))
}

/// Returns whether a cell looks like a value, whatever of: a number or a time, with at most a unit.
pub(super) fn looks_like_value(text: &str) -> bool {
    let number = written(text, "").and_then(Result::ok);
    number.is_some_and(|found| found.rest.trim().is_empty()) || read_time(text).is_ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::Better;

    fn score() -> Measure {
        Measure { name: "score".into(), unit: "points".into(), better: Better::More }
    }

    #[test]
    fn a_time_is_read_in_the_form_of_its_column() {
        let unit = |unit: &str| Some(Form::Unit(unit.to_owned()));
        for (text, form, seconds, step) in [
            ("7:52", None, 472.0, 1.0),
            ("7:52", Some(Form::MinutesSeconds), 472.0, 1.0),
            ("7:52:00", Some(Form::MinutesSeconds), 472.0, 1.0),
            ("7:52", Some(Form::HoursMinutes), 28_320.0, 60.0),
            ("0:07:52", Some(Form::HoursMinutesSeconds), 472.0, 1.0),
            ("1.5", unit("min"), 90.0, 6.0),
            ("341,2", unit("s"), 341.2, 0.1),
            ("3h20m", unit("s"), 12_000.0, 60.0),
        ] {
            let read = said(text, &Measure::time(), form.as_ref());
            assert_eq!(read, Ok(Said::Value { value: seconds, step }), "{text} {form:?}");
        }
    }

    #[test]
    fn what_could_be_another_time_is_refused() {
        for (text, form, why) in [
            ("52", None, "without a unit"),
            ("52", Some(Form::Unit("points".into())), "a time is wanted"),
            ("1:07:52", Some(Form::MinutesSeconds), "has hours"),
            ("7:52", Some(Form::HoursMinutesSeconds), "two parts"),
            ("0:00", None, "no time at all"),
            ("5:75", None, "below 60"),
            ("~5:41", None, "not a span"),
            ("5:41*", None, "not a span"),
        ] {
            let wrong = said(text, &Measure::time(), form.as_ref()).unwrap_err();
            assert!(wrong.problem.contains(why), "{text}: {}", wrong.problem);
            assert!(!wrong.remedy.is_empty());
        }
    }

    #[test]
    fn a_number_is_read_with_its_unit_or_without() {
        for (text, value, step) in
            [("1,234.5", 1234.5, 0.1), ("812 points", 812.0, 1.0), ("8 120", 8120.0, 1.0)]
        {
            assert_eq!(said(text, &score(), None), Ok(Said::Value { value, step }), "{text}");
        }
        for text in ["12 kB", "1,234", "812 points up", "abc", "12abc"] {
            assert!(said(text, &score(), None).is_err(), "{text}");
        }
        let fps = Form::Unit("fps".into());
        assert!(said("812", &score(), Some(&fps)).is_err(), "its heading says another unit");
    }

    #[test]
    fn what_was_not_measured_and_what_failed_are_told_apart() {
        for text in ["", "-", "–", "n/a", "N.A.", "not tested", "?", "TBD", "#N/A"] {
            assert_eq!(said(text, &score(), None), Ok(Said::Nothing), "{text}");
        }
        for text in [
            "crash",
            "Crashed at 40 %",
            "DNF",
            "OOM",
            "out of memory",
            "FAIL",
            "failed: black screen",
            "timed out",
            "error",
        ] {
            let failed = said(text, &Measure::time(), None);
            assert_eq!(failed, Ok(Said::Failed(text.to_owned())), "{text}");
        }
        assert!(said("errand", &score(), None).is_err(), "another word");
    }

    #[test]
    fn values_are_known_by_their_look() {
        for (text, looks) in [
            ("5:41", true),
            ("812", true),
            ("3h20m", true),
            ("1,234.5 fps", true),
            ("driver 551", false),
            ("new", false),
        ] {
            assert_eq!(looks_like_value(text), looks, "{text}");
        }
    }
}
