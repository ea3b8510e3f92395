//! Values so far off their neighbours that they are asked about: a digit slipped, or minutes stand among seconds.

use super::grid::Place;
use super::sheet::Entry;
use crate::record::{LapHead, SECONDS, Settings, TIME};
use std::collections::HashMap;

/// What may have happened to a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Slipped {
    /// A digit too many or too few.
    Digit,
    /// It stands in minutes among seconds, in hours among minutes, or the other way round.
    Sixtieth,
}

/// A value so far off its neighbours that it is asked about.
#[derive(Clone, Debug, PartialEq)]
pub struct Slip {
    /// Its cell.
    pub place: Place,
    /// The rig.
    pub rig: String,
    /// The measure.
    pub measure: String,
    /// What was read.
    pub value: f64,
    /// What its neighbours lie about.
    pub usual: f64,
    /// The unit of both.
    pub unit: String,
    /// What may have happened.
    pub how: Slipped,
}

/// A value this many times its neighbours is questioned: ten is a slipped digit, and laps differ.
const SLIPPED: f64 = 8.0;
/// From here to there a factor of sixty is likelier than one of ten.
const SIXTY: std::ops::Range<f64> = 40.0..80.0;

type Kind<'a> = (&'a str, &'a Settings, &'a str);

/// What is known of one measure of one variant: on each rig, and on all, in order of size.
#[derive(Default)]
struct Known<'a> {
    rigs: HashMap<&'a str, Vec<f64>>,
    all: Vec<f64>,
}

/// Returns the values of `entries` that lie far off their neighbours: counted laps of the same cell in `laps` and each
/// other; where there are none, those of the same variant on other rigs.
///
/// * Shape: O(n log n) of n values together.
pub fn slips(entries: &[Entry], laps: &[LapHead]) -> Vec<Slip> {
    let mut known: HashMap<Kind<'_>, Known<'_>> = HashMap::new();
    let mut take = |kind, rig, value| {
        let of: &mut Known<'_> = known.entry(kind).or_default();
        of.rigs.entry(rig).or_default().push(value);
        of.all.push(value);
    };
    for lap in laps {
        let rig = lap.name.session.rig.as_str();
        let mut one = |measure| {
            if let Some(value) = lap.value(measure) {
                take((lap.workload.as_str(), &lap.settings, measure), rig, value);
            }
        };
        one(TIME);
        lap.readings.iter().for_each(|reading| one(&reading.name));
    }
    for entry in entries {
        for (measure, value) in entry.values() {
            take((&entry.workload, &entry.settings, measure), &entry.rig, value);
        }
    }
    for of in known.values_mut() {
        of.all.sort_by(f64::total_cmp);
        of.rigs.values_mut().for_each(|values| values.sort_by(f64::total_cmp));
    }
    let mut found = Vec::new();
    for entry in entries {
        for (measure, value) in entry.values() {
            let of = &known[&(entry.workload.as_str(), &entry.settings, measure)];
            let own = median_without(&of.rigs[entry.rig.as_str()], value);
            let usual = own.or_else(|| median_without(&of.all, value)).filter(|usual| *usual > 0.0);
            let Some((usual, how)) = usual.and_then(|usual| Some((usual, slipped(value / usual)?)))
            else {
                continue;
            };
            let reading = entry.readings.iter().find(|reading| reading.name == measure);
            let unit = reading.map_or(SECONDS, |reading| &reading.unit).to_owned();
            let (rig, measure) = (entry.rig.clone(), measure.to_owned());
            found.push(Slip { place: entry.place, rig, measure, value, usual, unit, how });
        }
    }
    found
}

fn slipped(ratio: f64) -> Option<Slipped> {
    let times = ratio.max(1.0 / ratio);
    match times {
        times if SIXTY.contains(&times) => Some(Slipped::Sixtieth),
        times if times > SLIPPED => Some(Slipped::Digit),
        _ => None,
    }
}

/// Returns the median of `sorted` without one of its values; nothing where that leaves none.
fn median_without(sorted: &[f64], value: f64) -> Option<f64> {
    let out = sorted.partition_point(|other| *other < value);
    let left = sorted.len().checked_sub(1).filter(|left| *left > 0)?;
    let at = |place: usize| sorted[if place < out { place } else { place + 1 }];
    Some(f64::midpoint(at((left - 1) / 2), at(left / 2)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::entry::example::study;
    use crate::entry::{Grid, Wishes, read_sheet};
    use crate::record::LapName;
    use crate::unit::Nanos;

    fn typed(times: &[&str]) -> Vec<Entry> {
        let wishes = Wishes {
            rig: Some("heron".into()),
            workload: Some("still".into()),
            ..Wishes::default()
        };
        let times: Vec<String> = times.iter().map(|&time| time.to_owned()).collect();
        read_sheet(&Grid::column("time", &times), &study(), &wishes).unwrap().entries
    }

    #[test]
    fn a_slipped_digit_is_questioned_and_a_slow_rig_is_not() {
        let found = slips(&typed(&["5:41", "5:39", "57:30"]), &[]);
        assert_eq!((found.len(), found[0].place.row, found[0].usual), (1, 3, 340.0));
        assert_eq!(found[0].how, Slipped::Digit);
        let name = LapName::parse("wren-1.1").unwrap();
        let lap = LapHead::done(name, "still", Settings::default(), Nanos::from_seconds(350));
        let alone = |text: &str| slips(&typed(&[text]), std::slice::from_ref(&lap)).len();
        assert_eq!((alone("35 s"), alone("5:50"), alone("17:30")), (1, 0, 0));
        assert_eq!(slips(&typed(&["35 s"]), &[]), [], "nothing to hold it against");
    }

    #[test]
    fn minutes_among_seconds_are_questioned_as_such() {
        let found = slips(&typed(&["341 s", "339 s", "5.7 s"]), &[]);
        assert_eq!(found.iter().map(|slip| slip.how).collect::<Vec<_>>(), [Slipped::Sixtieth]);
    }

    #[test]
    fn the_median_leaves_one_value_out() {
        let sorted = [1.0, 2.0, 3.0, 10.0];
        let without = |value| median_without(&sorted, value);
        assert_eq!([without(10.0), without(1.0), without(2.0)], [Some(2.0), Some(3.0), Some(3.0)]);
        assert_eq!(
            (median_without(&[5.0], 5.0), median_without(&[5.0, 5.0], 5.0)),
            (None, Some(5.0))
        );
    }
}
