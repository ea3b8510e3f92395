//! Readings: numbers and parts out of what a lap printed or wrote.
//!
//! A number that is found twice, not at all or in another unit is no number: the reading then says
//! what was seen instead, and the lap is one of which a reading failed.

mod budget;
mod find;
mod number;
mod split;
mod text;
mod word;

use honest_lap_core::record::{Find, Reading, ReadingRule, Source, Splits};
pub(crate) use text::{Text, Texts, key};
use text::{bytes, lines};
pub(crate) use word::{word, word_in_file};

pub(crate) use budget::Budgeted;
pub(crate) use split::parts;

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
            find => lines(text)
                .map_err(|why| format!("{place}: {why}"))
                .and_then(|lines| find::in_lines(find, &lines, &place, rule)),
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

#[cfg(test)]
mod tests;
