//! *Not steady*: laps of a session got slower, or faster, one after another.

use super::series::Series;
use super::{Doubt, per_cent};
use crate::stat::{slope, trend};

/// How often a clean series is accused, at most.
const ALPHA: f64 = 0.05;
/// A change from first to last below this is nobody's business.
const LEAST_CHANGE: f64 = 0.01;
/// Laps below which nothing is said.
const LEAST_LAPS: usize = 5;

/// Returns a doubt for every series that drifts.
pub(super) fn find(all: &[Series<'_>]) -> Vec<Doubt> {
    let mut found = Vec::new();
    for series in all {
        if series.laps.len() < LEAST_LAPS {
            continue;
        }
        let values = series.values();
        let Some(trend) = trend(&values).ok().filter(|trend| trend.p < ALPHA) else { continue };
        let Ok(drift) = slope(&values) else { continue };
        if drift.first_to_last.abs() < LEAST_CHANGE {
            continue;
        }
        let way = if drift.first_to_last > 0.0 { "rose" } else { "fell" };
        let (workload, rig) = (series.workload, &series.session.rig);
        found.push(Doubt {
            name: "not steady",
            workload: workload.to_owned(),
            laps: series.laps.iter().map(|(name, _)| (*name).clone()).collect(),
            evidence: format!(
                "{} {way} by {} over its {} laps (p = {:.3})",
                series.of(),
                per_cent(drift.first_to_last),
                series.laps.len(),
                trend.p
            ),
            settle: format!("on {rig}: lap run {workload} --warm-up 3, with a rest between laps"),
            false_alarms: Some(ALPHA),
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
        assert!(found[0].evidence.contains("rose by 3.5 % over its 8 laps"), "{:?}", found[0]);
        let wandering = [50.1, 51.4, 50.3, 50.9, 50.2, 51.0, 50.6, 50.4];
        assert_eq!(Lab::default().session("heron-1", &wandering).found_in_series(find), []);
        assert_eq!(Lab::default().session("heron-1", &rising[..4]).found_in_series(find), []);
    }
}
