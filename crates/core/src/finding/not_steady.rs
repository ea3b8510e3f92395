//! *Not steady*: laps of a session got slower, or faster, one after another.

use super::doubt::Doubt;
use super::raised::{Raised, Remedy};
use super::series::{CellScatter, Series};
use super::shared::Tests;
use crate::stat::{Scatter, slope, slope_p, trend};

/// The most that the order alone may say against a trend, whatever its size: one outlier is none.
const ALPHA: f64 = 0.05;
/// A change from first to last below this is nobody's business.
const LEAST_CHANGE: f64 = 0.01;
/// Laps below which nothing is said.
const LEAST_LAPS: usize = 5;

/// Tests every series for a trend.
pub(super) fn test(all: &[Series<'_>]) -> Tests {
    let cells = CellScatter::of(all, Scatter::about_line);
    let mut tests = Tests::default();
    for series in all.iter().filter(|series| series.laps.len() >= LEAST_LAPS) {
        let own = Scatter::about_line(&series.logs);
        let Ok(p) = slope_p(&series.logs, cells.with(series, own, own)) else { continue };
        tests.made(p, raised(series, p));
    }
    tests
}

fn raised(series: &Series<'_>, p: f64) -> Option<Raised> {
    if p >= ALPHA {
        return None;
    }
    let values = series.values();
    if trend(&values).ok()?.p >= ALPHA {
        return None;
    }
    let change = slope(&values).ok()?.first_to_last;
    (change.abs() >= LEAST_CHANGE).then(|| Raised {
        workload: series.workload.to_owned(),
        laps: series.laps.iter().map(|(name, _)| (*name).clone()).collect(),
        doubt: Doubt::NotSteady { series: series.name(), change, p },
        remedy: Remedy::again(&series.session.rig),
    })
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn laps_that_rise_are_doubted_and_laps_that_wander_are_not() {
        let rising = [50.1, 50.4, 50.3, 50.9, 51.2, 51.0, 51.6, 51.9];
        let found = Lab::default().session("heron-1", &rising).found_by(test);
        let Doubt::NotSteady { change, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((change - 0.035).abs() < 5e-4 && found[0].laps.len() == 8, "{change}");
        let wandering = [50.1, 51.4, 50.3, 50.9, 50.2, 51.0, 50.6, 50.4];
        assert_eq!(Lab::default().session("heron-1", &wandering).found_by(test), []);
        assert_eq!(Lab::default().session("heron-1", &rising[..4]).found_by(test), []);
    }
}
