//! *Odd lap*: a lap lies far from the others of its session. Flagged and kept.

use super::doubt::Doubt;
use super::first_lap;
use super::raised::{Raised, Remedy};
use super::series::{Pooled, Seen, SeriesTest, Told};
use crate::stat::{LEAST_DEVIATION, Scatter, above_p, median, odd_among, odd_threshold, sorted};
use std::collections::BTreeSet;

/// Tests the laps of a series: those that lie beyond the robust threshold of its size, by how seldom the most telling of
/// them would lie that far from the others.
pub(super) const TEST: SeriesTest = SeriesTest { scatter: Scatter::about_mean, one };

fn one(seen: &Seen<'_>, pooled: Pooled) -> Told {
    let threshold = odd_threshold(seen.values.len())?;
    let Seen { values, logs, sorted, .. } = seen;
    let odd = odd_among(values, logs, sorted, threshold, LEAST_DEVIATION);
    let mut odd = odd.unwrap_or_default();
    if odd.contains(&0) && first_lap::excess(seen).is_some() {
        // That has a name of its own.
        odd.retain(|&place| place != 0);
    }
    let p = odd.iter().filter_map(|&place| p(seen, place, pooled)).fold(1.0, f64::min);
    Some((p, raised(seen, &odd)))
}

/// Returns how seldom the lap at `place` would lie as far from the others as it does.
fn p(seen: &Seen<'_>, place: usize, pooled: Pooled) -> Option<f64> {
    let mut rest = seen.logs.clone();
    let own = (place < rest.len()).then(|| rest.remove(place))?;
    let above = above_p(own, &rest, pooled.with(Scatter::about_mean(&rest))).ok()?;
    // Either way, and whichever lap (Bonferroni).
    Some((2.0 * above.min(1.0 - above) * seen.values.len() as f64).min(1.0))
}

fn raised(seen: &Seen<'_>, odd: &[usize]) -> Option<Raised> {
    let series = seen.series;
    let &first = odd.first()?;
    let middle = median(&sorted(&seen.values)).ok()?;
    let odd: BTreeSet<usize> = odd.iter().copied().collect();
    let laps = series.laps().enumerate().filter(|(place, _)| odd.contains(place));
    Some(Raised {
        workload: series.workload().to_owned(),
        laps: laps.map(|(_, lap)| lap.name()).collect(),
        doubt: Doubt::OddLap { series: series.name(), off: seen.values[first] / middle - 1.0 },
        remedy: Remedy::again(series.rig()),
    })
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn a_lap_far_off_is_named_and_nothing_is_said_of_three() {
        let values = [12.31, 12.22, 12.4, 12.28, 12.35, 12.26, 14.9, 12.33];
        let found = Lab::default().session("heron-2", &values).found_by(&TEST);
        assert_eq!(found[0].laps[0].to_string(), "heron-2.7");
        let Doubt::OddLap { off, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((off - 0.21).abs() < 5e-3, "{off}");
        assert_eq!(Lab::default().session("heron-2", &[1.0, 1.0, 9.0]).found_by(&TEST), []);
    }

    #[test]
    fn a_slow_first_lap_is_one_doubt_and_not_two() {
        let lab = Lab::default().session("heron-1", &[75.9, 71.2, 70.8, 71.5, 70.9, 71.3]);
        assert_eq!((lab.found_by(&TEST).len(), lab.found_by(&first_lap::TEST).len()), (0, 1));
    }
}
