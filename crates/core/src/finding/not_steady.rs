//! *Not steady*: laps of a session got slower, or faster, one after another.

use super::doubt::Doubt;
use super::raised::{Raised, Remedy};
use super::series::{Pooled, Seen, SeriesTest, Told};
use crate::stat::{Scatter, may_change_by, slope, slope_p, trend};

/// The most that the order alone may say against a trend, whatever its size: one outlier is none.
const ALPHA: f64 = 0.05;
/// A change from first to last below this is nobody's business.
const LEAST_CHANGE: f64 = 0.01;
/// Laps below which nothing is said.
const LEAST_LAPS: usize = 5;

/// Tests a series for a trend.
pub(super) const TEST: SeriesTest = SeriesTest { scatter: Scatter::about_line, one };

fn one(seen: &Seen<'_>, pooled: Pooled) -> Told {
    if seen.values.len() < LEAST_LAPS {
        return None;
    }
    let p = slope_p(&seen.logs, pooled.with(pooled.own)).ok()?;
    Some((p, raised(seen, p)))
}

fn raised(seen: &Seen<'_>, p: f64) -> Option<Raised> {
    let (series, values) = (seen.series, &seen.values);
    // Of many laps, whether they change enough is far quicker to tell than by how much.
    if p >= ALPHA || !may_change_by(&seen.logs, LEAST_CHANGE) || trend(values).ok()?.p >= ALPHA {
        return None;
    }
    let change = slope(values).ok()?.first_to_last;
    (change.abs() >= LEAST_CHANGE).then(|| Raised {
        workload: series.workload().to_owned(),
        laps: series.names().collect(),
        doubt: Doubt::NotSteady { series: series.name(), change, p },
        remedy: Remedy::again(series.rig()),
    })
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn laps_that_rise_are_doubted_and_laps_that_wander_are_not() {
        let rising = [50.1, 50.4, 50.3, 50.9, 51.2, 51.0, 51.6, 51.9];
        let found = Lab::default().session("heron-1", &rising).found_by(&TEST);
        let Doubt::NotSteady { change, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((change - 0.035).abs() < 5e-4 && found[0].laps.len() == 8, "{change}");
        let wandering = [50.1, 51.4, 50.3, 50.9, 50.2, 51.0, 50.6, 50.4];
        assert_eq!(Lab::default().session("heron-1", &wandering).found_by(&TEST), []);
        assert_eq!(Lab::default().session("heron-1", &rising[..4]).found_by(&TEST), []);
    }
}
