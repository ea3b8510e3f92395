//! *Odd lap*: a lap lies far from the others of its session. Flagged and kept.

use super::doubt::Doubt;
use super::first_lap;
use super::raised::{Raised, Remedy};
use super::series::{CellScatter, Series};
use super::shared::Tests;
use crate::stat::{LEAST_DEVIATION, Scatter, above_p, median, odd_laps, odd_threshold};

/// Tests the laps of every series: those that lie beyond the robust threshold of its size, by how seldom the most telling
/// of them would lie that far from the others.
pub(super) fn test(all: &[Series<'_>]) -> Tests {
    let cells = CellScatter::of(all, Scatter::about_mean);
    let mut tests = Tests::default();
    for series in all {
        let values = series.values();
        let Some(threshold) = odd_threshold(values.len()) else { continue };
        let mut odd = odd_laps(&values, threshold, LEAST_DEVIATION).unwrap_or_default();
        if odd.contains(&0) && first_lap::excess(series).is_some() {
            // That has a name of its own.
            odd.retain(|&place| place != 0);
        }
        let p = odd.iter().filter_map(|&place| p(series, place, &cells)).fold(1.0, f64::min);
        tests.made(p, raised(series, &values, &odd));
    }
    tests
}

/// Returns how seldom any lap of a series would lie as far from the others as that at `place`.
fn p(series: &Series<'_>, place: usize, cells: &CellScatter<'_>) -> Option<f64> {
    let mut rest = series.logs.clone();
    let counted = Scatter::about_mean(&rest);
    let own = (place < rest.len()).then(|| rest.remove(place))?;
    let scatter = cells.with(series, counted, Scatter::about_mean(&rest));
    let above = above_p(own, &rest, scatter).ok()?;
    // Either way, and whichever lap (Bonferroni).
    Some((2.0 * above.min(1.0 - above) * series.laps.len() as f64).min(1.0))
}

fn raised(series: &Series<'_>, values: &[f64], odd: &[usize]) -> Option<Raised> {
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
    let (&first, middle) = (odd.first()?, median(&sorted).ok()?);
    Some(Raised {
        workload: series.workload.to_owned(),
        laps: odd.iter().map(|&place| series.laps[place].0.clone()).collect(),
        doubt: Doubt::OddLap { series: series.name(), off: values[first] / middle - 1.0 },
        remedy: Remedy::again(&series.session.rig),
    })
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn a_lap_far_off_is_named_and_nothing_is_said_of_three() {
        let values = [12.31, 12.22, 12.4, 12.28, 12.35, 12.26, 14.9, 12.33];
        let found = Lab::default().session("heron-2", &values).found_by(test);
        assert_eq!(found[0].laps[0].to_string(), "heron-2.7");
        let Doubt::OddLap { off, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((off - 0.21).abs() < 5e-3, "{off}");
        assert_eq!(Lab::default().session("heron-2", &[1.0, 1.0, 9.0]).found_by(test), []);
    }

    #[test]
    fn a_slow_first_lap_is_one_doubt_and_not_two() {
        let lab = Lab::default().session("heron-1", &[75.9, 71.2, 70.8, 71.5, 70.9, 71.3]);
        assert_eq!((lab.found_by(test).len(), lab.found_by(first_lap::test).len()), (0, 1));
    }
}
