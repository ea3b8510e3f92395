//! *Own time differs*: a program reports another time than the clock measured.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};

/// A report may leave out this share: starting and ending are not in it.
const LEAST_SHARE: f64 = 0.05;
/// Nor is a difference below this worth a word.
const LEAST_SECONDS: f64 = 0.05;

/// Returns what laps raise whose program reports another time than was measured, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |lap: &Lap<'_>, _: &LapFacts| {
        let report = lap.alike.read().iter().find(|reading| reading.reports_time)?;
        let reported = lap.yields().readings.value(&report.name)?;
        let measured = lap.wall?;
        let off = reported - measured.seconds();
        let differs = off.abs() > LEAST_SECONDS && off.abs() > LEAST_SHARE * measured.seconds();
        differs.then_some(Doubt::OwnTime { reported, measured })
    };
    ByFact::of(says, |_| Remedy::CompareOtherwise)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::{Better, Reading};

    #[test]
    fn a_report_that_leaves_out_half_is_doubted() {
        let mut lab = Lab::default().session("wren-1", &[2_000.0, 2_000.0, 2_000.0]);
        let mut report = |number: usize, seconds: f64| {
            lab.laps[number].readings = vec![Reading {
                name: "own".into(),
                unit: "s".into(),
                better: Better::Less,
                value: Some(seconds),
                step: None,
                seen: String::new(),
                reports_time: true,
            }];
        };
        report(0, 1.98);
        report(1, 1.2);
        let found = lab.found_in_facts(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 1));
        let measured = crate::unit::Nanos::from_seconds(2);
        assert_eq!(found[0].doubt, Doubt::OwnTime { reported: 1.2, measured });
    }
}
