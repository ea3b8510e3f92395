//! *Slipped digit*: a number that was typed in looks like its neighbours with a digit out of place.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::record::{LapHead, Settings, TIME};
use crate::stat::quantile;
use std::collections::{BTreeMap, BTreeSet};

/// A value closer to its neighbours than this is one of them.
const OFF: f64 = 0.15;
/// A value that comes this close to them once a digit is corrected was slipped.
const RIGHT: f64 = 0.05;
/// Neighbours without which nothing is usual.
const LEAST_NEIGHBOURS: usize = 3;

/// Returns what every typed value raises that is off its cell's other values, and would not be with its decimal point
/// moved or two neighbouring digits exchanged.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    type Cell<'a> = (&'a str, &'a Settings, &'a str, &'a str);
    let mut cells: BTreeMap<Cell<'_>, Vec<(&LapHead, f64)>> = BTreeMap::new();
    // What a machine read has no slipping fingers: most labs have nothing typed.
    let typed =
        |lap: &&&LapHead| lap.readings.iter().any(|read| read.step.is_some()) || lap.step.is_some();
    let typed: BTreeSet<&str> =
        evidence.laps.iter().filter(typed).map(|lap| lap.workload.as_str()).collect();
    for lap in evidence.laps.iter().filter(|lap| typed.contains(lap.workload.as_str())) {
        let names = lap.readings.iter().map(|reading| reading.name.as_str()).chain([TIME]);
        for measure in names {
            if let Some(value) = lap.value(measure) {
                let rig = lap.name.session.rig.as_str();
                let key = (lap.workload.as_str(), &lap.settings, rig, measure);
                cells.entry(key).or_default().push((lap, value));
            }
        }
    }
    let mut found = Vec::new();
    for ((workload, _, rig, measure), values) in cells {
        for (place, (lap, value)) in values.iter().enumerate() {
            if lap.step_of(measure).is_none() {
                continue;
            }
            let others = values.iter().enumerate().filter(|(other, _)| *other != place);
            let mut others: Vec<f64> = others.map(|(_, (_, value))| *value).collect();
            others.sort_by(f64::total_cmp);
            let (true, Ok(usual)) = (others.len() >= LEAST_NEIGHBOURS, quantile(&others, 0.5))
            else {
                continue;
            };
            if let Some(meant) = meant(*value, usual) {
                found.push(Raised {
                    workload: workload.to_owned(),
                    laps: vec![lap.name.clone()],
                    doubt: Doubt::SlippedDigit {
                        rig: rig.to_owned(),
                        measure: measure.to_owned(),
                        value: *value,
                        meant: (meant * 1e6).round() / 1e6,
                    },
                    remedy: Remedy::Reenter,
                });
            }
        }
    }
    found
}

/// Returns what `value` may have been meant to be, if it is off and a slip would explain it.
fn meant(value: f64, usual: f64) -> Option<f64> {
    let near = |candidate: f64, within: f64| (candidate / usual).ln().abs() < within;
    if near(value, OFF) {
        return None;
    }
    let moved = [10.0, 100.0, 0.1, 0.01].map(|factor| value * factor);
    let mut candidates: Vec<f64> = moved.to_vec();
    candidates.extend(exchanged(value));
    candidates.into_iter().find(|candidate| near(*candidate, RIGHT))
}

/// Returns `value` with each two neighbouring digits exchanged, as it would be typed.
fn exchanged(value: f64) -> Vec<f64> {
    let text: Vec<char> = format!("{value}").chars().collect();
    let digits: Vec<usize> = (0..text.len()).filter(|at| text[*at].is_ascii_digit()).collect();
    let swapped = |pair: &[usize]| {
        let mut other = text.clone();
        other.swap(pair[0], pair[1]);
        other.into_iter().collect::<String>().parse().ok()
    };
    digits.windows(2).filter_map(swapped).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::unit::Nanos;

    fn lab(odd: f64, by_hand: bool) -> Lab {
        let mut lab = Lab::default().session("heron-1", &[52_400.0, 52_100.0, 52_600.0, odd]);
        for lap in &mut lab.laps {
            lap.step = by_hand.then_some(Nanos(100_000_000));
        }
        lab
    }

    #[test]
    fn a_moved_point_and_exchanged_digits_are_told_and_a_slow_lap_is_not() {
        let said = |odd| lab(odd, true).found(find);
        let meant = |odd| match said(odd)[0].doubt {
            Doubt::SlippedDigit { value, meant, .. } => (value, meant),
            _ => unreachable!("it finds nothing else"),
        };
        assert_eq!((meant(5_240.0), meant(25_400.0)), ((5.24, 52.4), (25.4, 52.4)));
        assert_eq!(said(70_000.0), [], "a slow lap");
        assert_eq!(said(52_900.0), []);
        assert_eq!(lab(5_240.0, false).found(find), [], "a clock does not slip");
    }
}
