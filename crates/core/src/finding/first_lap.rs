//! *First lap*: nobody warmed up, and the first lap was slower than the rest.

use super::doubt::Doubt;
use super::raised::{Raised, Remedy};
use super::series::Series;
use crate::stat::left_out;

/// How often a clean series is accused, at most.
const ALPHA: f64 = 0.05;
/// An excess below this is nobody's business.
const LEAST_EXCESS: f64 = 0.01;
/// Laps below which nothing is said.
const LEAST_LAPS: usize = 4;

/// Returns what series without warm-ups raise whose first lap took longer than the rest.
pub(super) fn find(all: &[Series<'_>]) -> Vec<Raised> {
    let raised = |series: &Series<'_>| {
        let excess = excess(series)?;
        Some(Raised {
            workload: series.workload.to_owned(),
            laps: vec![series.laps[0].0.clone()],
            doubt: Doubt::FirstLap { series: series.name(), excess },
            remedy: Remedy::again(&series.session.rig),
        })
    };
    all.iter().filter_map(raised).collect()
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
        let Doubt::FirstLap { excess, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((excess - 0.067).abs() < 5e-4, "{excess}");
        lab.laps[0].warm_up = true;
        assert_eq!(lab.found_in_series(find), []);
        let usual = Lab::default().session("heron-1", &[71.0, 71.2, 70.8, 71.5, 70.9, 71.3]);
        assert_eq!(usual.found_in_series(find), []);
    }
}
