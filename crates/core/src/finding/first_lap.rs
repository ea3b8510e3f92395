//! *First lap*: nobody warmed up, and the first lap was slower than the rest.

use super::series::Series;
use super::{Doubt, per_cent};
use crate::stat::left_out;

/// How often a clean series is accused, at most.
const ALPHA: f64 = 0.05;
/// An excess below this is nobody's business.
const LEAST_EXCESS: f64 = 0.01;
/// Laps below which nothing is said.
const LEAST_LAPS: usize = 4;

/// Returns a doubt for every series without warm-ups whose first lap took longer than the rest.
pub(super) fn find(all: &[Series<'_>]) -> Vec<Doubt> {
    let doubt = |series: &Series<'_>| {
        let excess = excess(series)?;
        let (workload, rig) = (series.workload, &series.session.rig);
        Some(Doubt {
            name: "first lap",
            workload: workload.to_owned(),
            laps: vec![series.laps[0].0.clone()],
            evidence: format!(
                "the first lap of {} took {} longer than the others, and none warmed up",
                series.of(),
                per_cent(excess)
            ),
            settle: format!("on {rig}: lap run {workload} --warm-up 1; or fills_cache = true"),
            false_alarms: Some(ALPHA),
        })
    };
    all.iter().filter_map(doubt).collect()
}

/// Returns by how much the first lap was slower than the rest, where it was.
pub(super) fn excess(series: &Series<'_>) -> Option<f64> {
    let cold = series.settings.get(crate::record::CACHE).is_some();
    if series.warmed_up || cold || series.laps.len() < LEAST_LAPS {
        return None;
    }
    let values = series.values();
    // Most first laps are no slower than the rest, and need no test that says so.
    let fastest_other = values[1..].iter().copied().fold(f64::INFINITY, f64::min);
    if values[0] < fastest_other * (1.0 + LEAST_EXCESS) {
        return None;
    }
    let found = left_out(&values, 0).ok()?;
    (found.p_slower < ALPHA && found.excess >= LEAST_EXCESS).then_some(found.excess)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn a_slow_first_lap_is_doubted_unless_it_was_to_warm_up() {
        let mut lab = Lab::default().session("heron-1", &[75.9, 71.2, 70.8, 71.5, 70.9, 71.3]);
        let found = lab.found_in_series(find);
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].laps[0].to_string(), "heron-1.1");
        assert!(found[0].evidence.contains("took 6.7 % longer"), "{}", found[0].evidence);
        lab.laps[0].warm_up = true;
        assert_eq!(lab.found_in_series(find), []);
        let usual = Lab::default().session("heron-1", &[71.0, 71.2, 70.8, 71.5, 70.9, 71.3]);
        assert_eq!(usual.found_in_series(find), []);
    }
}
