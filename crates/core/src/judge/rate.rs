//! The work in a second that a cell comes to, and how near that comes to what its rig could do at most.

use super::ask::Ask;
use super::cell::Cell;
use crate::record::{Measure, Peak, Settings, TIME, share_of_peak};
use crate::stat::Interval;
use crate::unit::Amount;
use serde::Serialize;

/// Work in a second.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Rate {
    /// How much of it.
    pub a_second: Amount,
    /// Its 95 % interval, in the same unit.
    pub interval: Option<Interval>,
    /// How near it comes to a paper peak, where the rig has one of its unit.
    pub of_peak: Option<OfPeak>,
}

/// How near a rate comes to a paper peak.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct OfPeak {
    /// The share.
    pub share: f64,
    /// The peak: a document's word, without an interval.
    pub peak: Peak,
}

impl Rate {
    /// Returns the rate that the values of `cell` come to: work over time, or a measure that is a rate itself.
    pub(super) fn of(
        (rig, workload, settings): (&str, &str, &Settings),
        measure: &Measure,
        cell: &Cell,
        ask: &Ask,
    ) -> Option<Self> {
        let (typical, interval) = (cell.typical(), cell.interval().ok());
        let (a_second, interval) = match measure.name.as_str() {
            TIME => {
                let work = ask.works.get(workload)?.of(settings)?;
                // The shorter end of a time is the higher end of its rate.
                let ends = |ends: Interval| Interval {
                    low: work.value / ends.high,
                    high: work.value / ends.low,
                };
                (Amount { value: work.value / typical, unit: work.unit }, interval.map(ends))
            }
            _ => {
                let unit = measure.unit.strip_suffix("/s")?.to_owned();
                (Amount { value: typical, unit }, interval)
            }
        };
        let peaks = ask.peaks.get(rig).map_or(&[][..], Vec::as_slice);
        let of_peak = share_of_peak(a_second.value, &a_second.unit, settings, peaks);
        let of_peak = of_peak.map(|(share, peak)| OfPeak { share, peak: peak.clone() });
        Some(Self { a_second, interval, of_peak })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Better, Work};

    #[test]
    fn work_over_time_and_a_rate_are_held_against_the_peak_of_their_unit() {
        let peak = Peak {
            a_second: Amount { value: 50.0, unit: "Mpixel".into() },
            from: "a leaflet".into(),
            of: None,
        };
        let ask = Ask {
            works: [("still".to_owned(), Work::parse("4 Mpixel").unwrap())].into(),
            peaks: [("heron".to_owned(), vec![peak])].into(),
            ..Ask::default()
        };
        let cell = Cell::from_sessions(vec![vec![0.2, 0.2, 0.2]]).unwrap();
        let variant = Settings::default();
        let of = |rig, workload, measure: &Measure| {
            Rate::of((rig, workload, &variant), measure, &cell, &ask)
        };
        let found = of("heron", "still", &Measure::time()).unwrap();
        assert!((found.a_second.value - 20.0).abs() < 1e-9, "{found:?}");
        assert!((found.of_peak.unwrap().share - 0.4).abs() < 1e-9);
        let ends = found.interval.unwrap();
        assert!(ends.low < 20.0 && ends.high > 20.0);
        assert_eq!(of("wren", "still", &Measure::time()).unwrap().of_peak, None);
        assert_eq!(of("heron", "reel", &Measure::time()), None, "its work is not known");
        let flow = Measure { name: "flow".into(), unit: "Mpixel/s".into(), better: Better::More };
        assert!((of("heron", "reel", &flow).unwrap().of_peak.unwrap().share - 0.004).abs() < 1e-9);
    }
}
