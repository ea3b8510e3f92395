//! *First lap*: nobody warmed up, and the first lap was slower than the rest.

use super::doubt::Doubt;
use super::raised::{Raised, Remedy};
use super::series::{Pooled, Seen, Series, SeriesTest, Told};
use crate::record::CACHE;
use crate::stat::{Scatter, above_p, mean};

/// An excess below this is nobody's business.
const LEAST_EXCESS: f64 = 0.01;
/// Laps below which nothing is said.
const LEAST_LAPS: usize = 4;

/// Tests the first lap of a series without warm-ups.
pub(super) const TEST: SeriesTest = SeriesTest { scatter: rest, one };

fn rest(logs: &[f64]) -> Scatter {
    Scatter::about_mean(logs.get(1..).unwrap_or_default())
}

fn one(seen: &Seen<'_>, pooled: Pooled) -> Told {
    let (first, others) = seen.logs.split_first().filter(|_| is_tested(seen))?;
    let p = above_p(*first, others, pooled.with(pooled.own)).ok()?;
    Some((p, excess(seen).and_then(|excess| raised(seen.series, excess))))
}

fn is_tested(seen: &Seen<'_>) -> bool {
    let cold = seen.series.settings().get(CACHE).is_some();
    !seen.series.warmed_up && !cold && seen.values.len() >= LEAST_LAPS
}

/// Returns by what share the first lap lies above the others, where that is enough to speak of.
pub(super) fn excess(seen: &Seen<'_>) -> Option<f64> {
    let (first, others) = seen.logs.split_first().filter(|_| is_tested(seen))?;
    let excess = (first - mean(others).ok()?).exp_m1();
    let beyond = others.iter().all(|other| first > other);
    (excess >= LEAST_EXCESS && beyond).then_some(excess)
}

fn raised(series: &Series<'_>, excess: f64) -> Option<Raised> {
    Some(Raised {
        workload: series.workload().to_owned(),
        laps: vec![series.names().next()?],
        doubt: Doubt::FirstLap { series: series.name(), excess },
        remedy: Remedy::again(series.rig()),
    })
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn a_slow_first_lap_is_doubted_unless_it_was_to_warm_up() {
        let mut lab = Lab::default().session("heron-1", &[75.9, 71.2, 70.8, 71.5, 70.9, 71.3]);
        let found = lab.found_by(&TEST);
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].laps[0].to_string(), "heron-1.1");
        let Doubt::FirstLap { excess, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((excess - 0.067).abs() < 5e-4, "{excess}");
        lab.laps[0].warm_up = true;
        assert_eq!(lab.found_by(&TEST), []);
        let usual = Lab::default().session("heron-1", &[71.0, 71.2, 70.8, 71.5, 70.9, 71.3]);
        assert_eq!(usual.found_by(&TEST), []);
    }
}
