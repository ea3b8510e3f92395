//! Readings: numbers and parts out of what a lap printed or wrote.
//!
//! A number that is found twice, not at all or in another unit is no number: the reading then says
//! what was seen instead, and the lap is one of which a reading failed.

mod find;
mod number;
mod split;

use crate::spool;
use honest_lap_core::record::{Find, Reading, ReadingRule, Source, Splits};
use honest_lap_core::unit::Nanos;
use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

pub(crate) use split::parts;

/// A JSON file that is larger is not one that a score stands in.
const MOST_JSON_BYTES: u64 = 64 << 20;

/// A stream or file of a lap: where it is, and how many bytes it carried if it is a spool.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Text {
    Spool { path: PathBuf, total: u64 },
    File(PathBuf),
}

/// What readings and splits of a lap are taken from, by where the study says it is.
pub(crate) type Texts = BTreeMap<String, Text>;

/// Returns the key of a source in [`Texts`].
pub(crate) fn key(source: &Source) -> String {
    match source {
        Source::Output => "standard output".to_owned(),
        Source::Errors => "standard error".to_owned(),
        Source::File(template) => template.source().to_owned(),
    }
}

/// Returns every source that is read by line in `rules` and `splits`.
pub(crate) fn sources<'a>(
    rules: &'a [ReadingRule],
    splits: Option<&'a Splits>,
) -> impl Iterator<Item = &'a Source> {
    rules.iter().map(|rule| &rule.source).chain(splits.map(|splits| &splits.source))
}

/// Reads what `rules` ask for.
pub(crate) fn readings(rules: &[ReadingRule], texts: &Texts) -> Vec<Reading> {
    rules.iter().filter(|rule| rule.find != Find::Eyes).map(|rule| reading(rule, texts)).collect()
}

fn reading(rule: &ReadingRule, texts: &Texts) -> Reading {
    let place = key(&rule.source);
    let found = match texts.get(&place) {
        None => Err(format!("{place} was not there")),
        Some(text) => match &rule.find {
            Find::Pointer(pointer) => find::at_pointer(&bytes(text), pointer, &place, rule),
            find => lines(text).and_then(|lines| find::in_lines(find, &lines, &place, rule)),
        },
    };
    let measure = rule.measure();
    let (value, step, seen) = match found {
        Ok(read) => (Some(read.value), read.step, read.seen),
        Err(why) => (None, None, why),
    };
    let reports_time = rule.reports_time;
    let (name, unit, better) = (measure.name, measure.unit, measure.better);
    Reading { name, unit, better, value, step, seen, reports_time }
}

fn bytes(text: &Text) -> Result<Vec<u8>, String> {
    let (Text::Spool { path, .. } | Text::File(path)) = text;
    let size = fs::metadata(path).map_err(|err| err.to_string())?.len();
    if size > MOST_JSON_BYTES {
        return Err(format!("it is larger than a result can be ({} MB)", size >> 20));
    }
    fs::read(path).map_err(|err| err.to_string())
}

fn lines(text: &Text) -> Result<Vec<spool::Line>, String> {
    match text {
        Text::Spool { path, total } => {
            let lines = spool::lines(path, *total).map_err(|err| err.to_string())?;
            lines.collect::<Result<_, _>>().map_err(|err| err.to_string())
        }
        Text::File(path) => file_lines(path),
    }
}

fn file_lines(path: &Path) -> Result<Vec<spool::Line>, String> {
    let text = Text::File(path.to_owned());
    let bytes = bytes(&text)?;
    let lines = String::from_utf8_lossy(&bytes);
    let line = |text: &str| spool::Line { text: text.to_owned(), at: Nanos(0) };
    Ok(lines.split(['\n', '\r']).map(line).collect())
}

#[cfg(test)]
mod tests;
