//! *Slipped digit*: a number that was typed in looks like its neighbours with a digit out of place.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::meant::exchanged;
use super::raised::{Raised, Remedy};
use super::shared::Tests;
use super::typed::cells;
use crate::stat::{Scatter, above_p, logs, quantile};

/// A value closer to its neighbours than this is one of them.
const OFF: f64 = 0.15;
/// A value that comes this close to them once a digit is corrected was slipped.
const RIGHT: f64 = 0.05;
/// Neighbours without which nothing is usual.
const LEAST_NEIGHBOURS: usize = 3;

/// Tests the typed values of every cell: those that are off its other values, and would not be with their decimal point
/// moved or two neighbouring digits exchanged, by how seldom one would lie that far off.
pub(super) fn test(evidence: &Evidence<'_>) -> Tests {
    let mut tests = Tests::default();
    for ((workload, _, rig, measure), values) in cells(evidence) {
        for (place, own) in values.iter().enumerate().filter(|(_, own)| own.step.is_some()) {
            let others = values.iter().enumerate().filter(|(other, _)| *other != place);
            let mut others: Vec<f64> = others.map(|(_, other)| other.value).collect();
            others.sort_by(f64::total_cmp);
            let (true, Ok(usual)) = (others.len() >= LEAST_NEIGHBOURS, quantile(&others, 0.5))
            else {
                continue;
            };
            let p = p(own.value, &others).unwrap_or(1.0);
            tests.made(
                p,
                meant(own.value, usual).map(|meant| Raised {
                    workload: workload.to_owned(),
                    laps: vec![own.lap.name()],
                    doubt: Doubt::SlippedDigit {
                        rig: rig.to_owned(),
                        measure: measure.to_owned(),
                        value: own.value,
                        meant: (meant * 1e6).round() / 1e6,
                    },
                    remedy: Remedy::Reenter,
                }),
            );
        }
    }
    tests
}

/// Returns how seldom a value would lie as far from its `others`, either way.
fn p(value: f64, others: &[f64]) -> Option<f64> {
    let logs = logs(others).ok()?;
    let above = above_p(value.ln(), &logs, Scatter::about_mean(&logs)).ok()?;
    Some(2.0 * above.min(1.0 - above))
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

#[cfg(test)]
mod tests {
    use super::super::shared::shared;
    use super::super::testing::Lab;
    use super::*;
    use crate::unit::Nanos;

    fn tested(evidence: &Evidence<'_>) -> Vec<Raised> {
        shared(vec![test(evidence)])
    }

    fn lab(odd: f64, by_hand: bool) -> Lab {
        let mut lab = Lab::default().session("heron-1", &[52_400.0, 52_100.0, 52_600.0, odd]);
        for lap in &mut lab.laps {
            lap.step = by_hand.then_some(Nanos(100_000_000));
        }
        lab
    }

    #[test]
    fn a_moved_point_and_exchanged_digits_are_told_and_a_slow_lap_is_not() {
        let said = |odd| lab(odd, true).found(tested);
        let meant = |odd| match said(odd)[0].doubt {
            Doubt::SlippedDigit { value, meant, .. } => (value, meant),
            _ => unreachable!("it finds nothing else"),
        };
        assert_eq!((meant(5_240.0), meant(25_400.0)), ((5.24, 52.4), (25.4, 52.4)));
        assert_eq!(said(70_000.0), [], "a slow lap");
        assert_eq!(said(52_900.0), []);
        assert_eq!(lab(5_240.0, false).found(tested), [], "a clock does not slip");
    }
}
