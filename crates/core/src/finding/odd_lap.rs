//! *Odd lap*: a lap lies far from the others of its session. Flagged and kept.

use super::doubt::Doubt;
use super::first_lap;
use super::raised::{Raised, Remedy};
use super::series::Series;
use crate::stat::{LEAST_DEVIATION, median, odd_laps, odd_threshold};

/// Returns what series raise in which a lap lies far off.
pub(super) fn find(all: &[Series<'_>]) -> Vec<Raised> {
    let mut found = Vec::new();
    for series in all {
        let values = series.values();
        let odd = odd_threshold(values.len())
            .and_then(|threshold| odd_laps(&values, threshold, LEAST_DEVIATION).ok());
        let mut odd = odd.unwrap_or_default();
        if odd.contains(&0) && first_lap::excess(series).is_some() {
            // That has a name of its own.
            odd.retain(|&place| place != 0);
        }
        let mut sorted = values.clone();
        sorted.sort_by(f64::total_cmp);
        let (Some(&first), Ok(middle)) = (odd.first(), median(&sorted)) else { continue };
        found.push(Raised {
            workload: series.workload.to_owned(),
            laps: odd.iter().map(|&place| series.laps[place].0.clone()).collect(),
            doubt: Doubt::OddLap { series: series.name(), off: values[first] / middle - 1.0 },
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
    fn a_lap_far_off_is_named_and_nothing_is_said_of_three() {
        let values = [12.31, 12.22, 12.4, 12.28, 12.35, 12.26, 14.9, 12.33];
        let found = Lab::default().session("heron-2", &values).found_in_series(find);
        assert_eq!(found[0].laps[0].to_string(), "heron-2.7");
        let Doubt::OddLap { off, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((off - 0.21).abs() < 5e-3, "{off}");
        assert_eq!(Lab::default().session("heron-2", &[1.0, 1.0, 9.0]).found_in_series(find), []);
    }

    #[test]
    fn a_slow_first_lap_is_one_doubt_and_not_two() {
        let lab = Lab::default().session("heron-1", &[75.9, 71.2, 70.8, 71.5, 70.9, 71.3]);
        assert_eq!(
            (lab.found_in_series(find).len(), lab.found_in_series(first_lap::find).len()),
            (0, 1)
        );
    }
}
