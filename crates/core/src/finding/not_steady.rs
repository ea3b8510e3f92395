//! *Not steady*: laps of a session got slower, or faster, one after another.

use super::doubt::Doubt;
use super::raised::{Raised, Remedy};
use super::series::Series;
use crate::stat::{slope, trend};

/// How often a clean series is accused, at most.
const ALPHA: f64 = 0.05;
/// A change from first to last below this is nobody's business.
const LEAST_CHANGE: f64 = 0.01;
/// Laps below which nothing is said.
const LEAST_LAPS: usize = 5;

/// Returns what series raise that drift.
pub(super) fn find(all: &[Series<'_>]) -> Vec<Raised> {
    let mut found = Vec::new();
    for series in all {
        if series.laps.len() < LEAST_LAPS {
            continue;
        }
        let values = series.values();
        let Some(trend) = trend(&values).ok().filter(|trend| trend.p < ALPHA) else { continue };
        let Ok(drift) = slope(&values) else { continue };
        let change = drift.first_to_last;
        if change.abs() < LEAST_CHANGE {
            continue;
        }
        found.push(Raised {
            workload: series.workload.to_owned(),
            laps: series.laps.iter().map(|(name, _)| (*name).clone()).collect(),
            doubt: Doubt::NotSteady { series: series.name(), change, p: trend.p },
            remedy: Remedy::again(&series.session.rig),
        });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn laps_that_rise_are_doubted_and_laps_that_wander_are_not() {
        let rising = [50.1, 50.4, 50.3, 50.9, 51.2, 51.0, 51.6, 51.9];
        let found = Lab::default().session("heron-1", &rising).found_in_series(find);
        let Doubt::NotSteady { change, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((change - 0.035).abs() < 5e-4 && found[0].laps.len() == 8, "{change}");
        let wandering = [50.1, 51.4, 50.3, 50.9, 50.2, 51.0, 50.6, 50.4];
        assert_eq!(Lab::default().session("heron-1", &wandering).found_in_series(find), []);
        assert_eq!(Lab::default().session("heron-1", &rising[..4]).found_in_series(find), []);
    }
}
