//! What of a table is on record already: an import counts once, however often it is made.

use super::sheet::Entry;
use crate::record::{LapHead, LapName, Outcome, Settings, TIME};
use crate::unit::Date;
use std::collections::HashMap;

/// A lap that was typed in before.
#[derive(Clone, Copy, Debug)]
pub struct Recorded<'a> {
    /// The lap.
    pub lap: &'a LapHead,
    /// The day it was measured on.
    pub on: Date,
}

/// A lap of a table that says of a recorded one otherwise.
#[derive(Clone, Debug, PartialEq)]
pub struct Change {
    /// The table's.
    pub entry: Entry,
    /// The recorded one.
    pub lap: LapName,
    /// The measure that differs.
    pub measure: String,
    /// Its recorded value.
    pub was: f64,
    /// Its value in the table.
    pub is: f64,
}

/// The laps of a table, sorted by what is on record.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Sorted {
    /// Those that are not.
    pub new: Vec<Entry>,
    /// Those that say of a recorded lap otherwise.
    pub changed: Vec<Change>,
    /// How many values are on record as they stand in the table.
    pub known: usize,
}

type Cell<'a> = (&'a str, &'a str, &'a Settings);

/// Recorded laps by what they are of. Of every cell twice: by its day, and whatever the day.
struct Index<'a> {
    recorded: &'a [Recorded<'a>],
    used: Vec<bool>,
    /// What stands for a cell, and for a measure, in the two below.
    cell_numbers: HashMap<Cell<'a>, usize>,
    measure_numbers: HashMap<&'a str, usize>,
    /// Laps of a cell that stand, the first last.
    cells: HashMap<(usize, Option<Date>), Vec<usize>>,
    /// Laps of a cell with just this value of a measure; those that were set aside are taken last.
    values: HashMap<(usize, Option<Date>, usize, u64), Vec<usize>>,
}

/// Takes a lap that has not been taken yet from the end of `of`.
fn take(used: &mut [bool], of: &mut Vec<usize>) -> Option<usize> {
    while let Some(at) = of.pop() {
        if !std::mem::replace(&mut used[at], true) {
            return Some(at);
        }
    }
    None
}

/// What stands for the value of a lap that failed.
const FAILED: &str = "";

impl<'a> Index<'a> {
    fn of(recorded: &'a [Recorded<'a>]) -> Self {
        let (mut cell_numbers, mut measure_numbers) = (HashMap::new(), HashMap::new());
        let (mut cells, mut values) = (HashMap::new(), HashMap::new());
        // They are taken from the ends.
        let aside = |at: &usize| recorded[*at].lap.set_aside.is_some();
        let standing = (0..recorded.len()).rev().filter(|at| !aside(at));
        let order = (0..recorded.len()).rev().filter(aside).chain(standing);
        for at in order {
            let Recorded { lap, on } = &recorded[at];
            let cell: Cell<'a> = (&lap.name.session.rig, &lap.workload, &lap.settings);
            let next = cell_numbers.len();
            let cell = *cell_numbers.entry(cell).or_insert(next);
            for day in [Some(*on), None] {
                if lap.set_aside.is_none() {
                    cells.entry((cell, day)).or_insert_with(Vec::new).push(at);
                }
                for (measure, value) in said_by(lap) {
                    let next = measure_numbers.len();
                    let measure = *measure_numbers.entry(measure).or_insert(next);
                    let of = (cell, day, measure, value.to_bits());
                    values.entry(of).or_insert_with(Vec::new).push(at);
                }
            }
        }
        let used = vec![false; recorded.len()];
        Self { recorded, used, cell_numbers, measure_numbers, cells, values }
    }

    /// Returns the number of the cell that `entry` is of, if anything of it is on record.
    fn cell_of(&self, entry: &Entry) -> Option<usize> {
        self.cell_numbers.get(&(&*entry.rig, &*entry.workload, &entry.settings)).copied()
    }

    /// Takes a lap of this cell and day that has just this value and was not taken yet.
    fn take_equal(
        &mut self,
        cell: usize,
        day: Option<Date>,
        (measure, value): &(String, f64),
    ) -> Option<usize> {
        let measure = *self.measure_numbers.get(measure.as_str())?;
        take(&mut self.used, self.values.get_mut(&(cell, day, measure, value.to_bits()))?)
    }

    /// Takes a lap of this cell and day that was not taken yet.
    fn take_any(&mut self, cell: usize, day: Option<Date>) -> Option<usize> {
        take(&mut self.used, self.cells.get_mut(&(cell, day))?)
    }
}

/// Returns what was typed of a lap.
fn said_by(lap: &LapHead) -> Vec<(&str, f64)> {
    if lap.outcome == Outcome::Failed {
        return vec![(FAILED, 0.0)];
    }
    let time = lap.wall.map(|wall| (TIME, wall.seconds()));
    let read =
        lap.readings.iter().filter_map(|reading| Some((reading.name.as_str(), reading.value?)));
    time.into_iter().chain(read).collect()
}

/// Returns what an entry says, by the same names.
fn said(entry: &Entry) -> Vec<(String, f64)> {
    match entry.failed {
        Some(_) => vec![(FAILED.to_owned(), 0.0)],
        None => entry.values().map(|(name, value)| (name.to_owned(), value)).collect(),
    }
}

/// Sorts `entries` by what is `recorded` of the same rig, workload, variant and day; each recorded lap answers for one.
///
/// An entry without a day is one of `undated`; where that is nothing either, any day's lap may be it: a sheet without
/// dates that is imported again is the same sheet.
///
/// * Shape: O(n + m) of n entries and m recorded laps.
pub fn sorted(entries: Vec<Entry>, recorded: &[Recorded<'_>], undated: Option<Date>) -> Sorted {
    let mut index = Index::of(recorded);
    let (mut out, mut open) = (Sorted::default(), Vec::new());
    for mut entry in entries {
        let day = entry.on.or(undated);
        let mut left = said(&entry);
        let mut changed = None;
        while changed.is_none() {
            let cell = index.cell_of(&entry);
            let equal = |value| index.take_equal(cell?, day, value);
            let Some(at) = left.iter().find_map(equal) else { break };
            let says = said_by(index.recorded[at].lap);
            let own =
                |measure: &str| says.iter().find(|(name, _)| *name == measure).map(|(_, v)| *v);
            let before = left.len();
            left.retain(|(measure, value)| own(measure) != Some(*value));
            out.known += before - left.len();
            changed = left
                .iter()
                .find_map(|(measure, value)| Some((at, measure.clone(), own(measure)?, *value)));
        }
        match changed {
            Some(change) => out.changed.push(index.change(entry, change)),
            None if left.is_empty() => {}
            None => {
                keep(&mut entry, &left);
                open.push((entry, day, left));
            }
        }
    }
    // Only what nothing on record is equal to can be a change of it.
    for (entry, day, left) in open {
        let differs = |at: usize| {
            let says = said_by(index.recorded[at].lap);
            left.iter().find_map(|(measure, value)| {
                let was = says.iter().find(|(name, _)| name == measure)?.1;
                Some((at, measure.clone(), was, *value))
            })
        };
        let taken = index.cell_of(&entry).and_then(|cell| index.take_any(cell, day));
        match taken.and_then(differs) {
            Some(change) => out.changed.push(index.change(entry, change)),
            None => out.new.push(entry),
        }
    }
    out
}

impl Index<'_> {
    fn change(&self, entry: Entry, (at, measure, was, is): (usize, String, f64, f64)) -> Change {
        Change { entry, lap: self.recorded[at].lap.name.clone(), measure, was, is }
    }
}

/// Leaves in `entry` what is `left` of it.
fn keep(entry: &mut Entry, left: &[(String, f64)]) {
    let is_left = |name: &str| left.iter().any(|(measure, _)| measure == name);
    entry.time = entry.time.filter(|_| is_left(TIME));
    entry.readings.retain(|reading| is_left(&reading.name));
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::entry::Place;
    use crate::unit::Nanos;

    fn day(text: &str) -> Date {
        Date::parse(text).unwrap()
    }

    fn entry(rig: &str, seconds: u64, on: Option<&str>) -> Entry {
        Entry {
            rig: rig.into(),
            workload: "still".into(),
            settings: Settings::default(),
            on: on.map(day),
            time: Some((Nanos::from_seconds(seconds), Nanos::from_seconds(1))),
            readings: Vec::new(),
            failed: None,
            place: Place::default(),
        }
    }

    fn lap(name: &str, seconds: u64) -> LapHead {
        let name = LapName::parse(name).unwrap();
        LapHead::done(name, "still", Settings::default(), Nanos::from_seconds(seconds))
    }

    #[test]
    fn what_is_on_record_is_known_and_each_lap_answers_for_one() {
        let laps = [lap("heron-1.1", 341), lap("heron-1.2", 339)];
        let recorded: Vec<Recorded<'_>> =
            laps.iter().map(|lap| Recorded { lap, on: day("2026-03-14") }).collect();
        let of = |entries: Vec<Entry>, undated: Option<&str>| {
            let all = sorted(entries, &recorded, undated.map(day));
            (all.new.len(), all.changed.len(), all.known)
        };
        let both = || vec![entry("heron", 339, None), entry("heron", 341, None)];
        assert_eq!(of(both(), None), (0, 0, 2), "in any order");
        assert_eq!(of(both(), Some("2026-03-15")), (2, 0, 0), "another day's are others");
        let thrice = [both(), vec![entry("heron", 341, None)]].concat();
        assert_eq!(of(thrice, None), (1, 0, 2), "a third lap is a third");
        assert_eq!(of(vec![entry("heron", 352, None)], None), (0, 1, 0));
        assert_eq!(of(vec![entry("heron", 352, Some("2026-05-01"))], None), (1, 0, 0));
        assert_eq!(of(vec![entry("wren", 341, None)], None), (1, 0, 0));
    }

    #[test]
    fn a_change_says_what_it_was_and_a_lap_set_aside_is_known_and_cannot_change() {
        let mut laps = [lap("heron-1.1", 341)];
        let all = |laps: &[LapHead], seconds: u64| {
            let recorded: Vec<Recorded<'_>> =
                laps.iter().map(|lap| Recorded { lap, on: day("2026-03-14") }).collect();
            sorted(vec![entry("heron", seconds, None)], &recorded, None)
        };
        let change = &all(&laps, 352).changed[0];
        assert_eq!(
            (change.lap.to_string().as_str(), change.was, change.is),
            ("heron-1.1", 341.0, 352.0)
        );
        laps[0].set_aside = Some("another window".into());
        assert_eq!((all(&laps, 341).known, all(&laps, 352).new.len()), (1, 1));
    }

    #[test]
    fn of_a_lap_with_more_readings_than_before_only_those_are_new() {
        let reading = |name: &str, value: f64| crate::record::Reading {
            name: name.into(),
            unit: "points".into(),
            better: crate::record::Better::More,
            value: Some(value),
            step: Some(1.0),
            seen: String::new(),
            reports_time: false,
        };
        let laps = [lap("heron-1.1", 341)];
        let recorded = [Recorded { lap: &laps[0], on: day("2026-03-14") }];
        let more = Entry { readings: vec![reading("score", 812.0)], ..entry("heron", 341, None) };
        let all = sorted(vec![more.clone()], &recorded, None);
        assert_eq!((all.known, all.new.len(), all.new[0].time), (1, 1, None));
        assert_eq!(all.new[0].readings, more.readings);
    }
}
