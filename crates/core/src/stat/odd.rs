//! Odd laps: how far a lap lies from the others, in their own spread. Flagged and kept.

use super::{StatError, logs, median, sorted};

/// Modified z values of a series of logs.
#[derive(Clone, Debug, PartialEq)]
pub struct ModifiedZ {
    /// Median of the logs.
    pub median_log: f64,
    /// Median absolute deviation of the logs.
    pub mad_log: f64,
    /// A value for every lap; `None` where half of the laps are equal, so that nothing spreads.
    pub z: Option<Vec<f64>>,
}

/// Makes the median absolute deviation of normal values one standard deviation: Φ⁻¹(¾).
const TO_SIGMA: f64 = 0.6745;

/// A lap closer to the median than this is never odd, however steady the others are.
pub const LEAST_DEVIATION: f64 = 0.01;

/// (laps, threshold): with it, one clean series in twenty has a lap flagged.
///
/// By simulation of normal logs; thresholds between two sizes are interpolated, those below 4 laps
/// do not exist, and those above 30 are that of 30.
const THRESHOLDS: [(usize, f64); 15] = [
    (4, 6.9),
    (5, 7.91),
    (6, 5.54),
    (7, 5.85),
    (8, 4.91),
    (9, 5.07),
    (10, 4.58),
    (11, 4.67),
    (12, 4.37),
    (13, 4.44),
    (14, 4.23),
    (15, 4.28),
    (20, 4.0),
    (25, 3.94),
    (30, 3.85),
];

/// Returns the modified z of every value.
///
/// ```text
/// z = 0.6745 · (y − median y) / MAD,   MAD = median |y − median y|,   y = ln x
/// ```
/// * Shape: `n ≥ 1` positive values in, `n` out. O(n log n).
/// * Units: none.
/// * Errors: [`StatError::Empty`], [`StatError::NotPositive`].
/// * Source: Iglewicz and Hoaglin (1993), *How to Detect and Handle Outliers*, 3.
pub fn modified_z(values: &[f64]) -> Result<ModifiedZ, StatError> {
    let logs = logs(values)?;
    let (median_log, mad_log) = middle(&sorted(&logs))?;
    let z = |y: &f64| TO_SIGMA * (y - median_log) / mad_log;
    let z = (mad_log > 0.0).then(|| logs.iter().map(z).collect());
    Ok(ModifiedZ { median_log, mad_log, z })
}

/// Returns the threshold for a series of `n` laps; `None` where nothing can be flagged.
pub fn odd_threshold(n: usize) -> Option<f64> {
    let (first, last) = (THRESHOLDS.first()?, THRESHOLDS.last()?);
    if n < first.0 {
        return None;
    }
    if n >= last.0 {
        return Some(last.1);
    }
    let after = THRESHOLDS.iter().position(|(laps, _)| *laps >= n)?;
    let (upper, above) = THRESHOLDS[after];
    if upper == n {
        return Some(above);
    }
    let (lower, below) = THRESHOLDS[after - 1];
    let share = (n - lower) as f64 / (upper - lower) as f64;
    Some(below + share * (above - below))
}

/// Returns the places of the odd values: beyond `threshold`, and off the median by
/// `least_deviation` or more.
///
/// * Shape: `n` positive values; the places count from 0. O(n log n).
/// * Units: `least_deviation` is a fraction; the others have none.
/// * Errors: as [`modified_z`].
pub fn odd_laps(
    values: &[f64],
    threshold: f64,
    least_deviation: f64,
) -> Result<Vec<usize>, StatError> {
    let logs = logs(values)?;
    odd_among(values, &logs, &sorted(&logs), threshold, least_deviation)
}

/// Returns the same where the logs of `values` are known, and `sorted`, the least first.
///
/// * Shape: `n` values, and as many logs twice. O(n).
/// * Units: as of [`odd_laps`].
/// * Errors: [`StatError::Empty`].
pub fn odd_among(
    values: &[f64],
    logs: &[f64],
    sorted: &[f64],
    threshold: f64,
    least_deviation: f64,
) -> Result<Vec<usize>, StatError> {
    let (median_log, mad_log) = middle(sorted)?;
    let typical = median_log.exp();
    let odd = |(value, log): (&f64, &f64)| {
        let z = TO_SIGMA * (log - median_log) / mad_log;
        mad_log > 0.0 && z.abs() > threshold && (value / typical - 1.0).abs() >= least_deviation
    };
    let places = values.iter().zip(logs).zip(0..);
    Ok(places.filter(|(pair, _)| odd(*pair)).map(|(_, place)| place).collect())
}

/// Returns the median of `sorted`, and the median of how far they lie from it.
fn middle(sorted: &[f64]) -> Result<(f64, f64), StatError> {
    let median_log = median(sorted)?;
    let off = |y: &f64| (y - median_log).abs();
    // From the middle outwards they lie in order on either side, so that half of them are looked at.
    let (below, above) = sorted.split_at(sorted.partition_point(|y| *y < median_log));
    let (mut below, mut above) =
        (below.iter().rev().map(off).peekable(), above.iter().map(off).peekable());
    let mut nearest = || match (below.peek(), above.peek()) {
        (Some(low), Some(high)) if low < high => below.next(),
        (_, Some(_)) => above.next(),
        _ => below.next(),
    };
    let (mut last_two, half) = ([0.0; 2], sorted.len() / 2);
    for _ in 0..=half {
        last_two = [last_two[1], nearest().unwrap_or_default()];
    }
    let of_even = sorted.len().is_multiple_of(2);
    let mad_log = if of_even { median(&last_two)? } else { last_two[1] };
    Ok((median_log, mad_log))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    #[test]
    fn thresholds_are_those_of_the_table_and_between_them() {
        assert_eq!(odd_threshold(3), None);
        assert_eq!(odd_threshold(8), Some(4.91));
        assert_eq!(odd_threshold(100), Some(3.85));
        // Two fifths of the way from 15 to 20.
        assert!((odd_threshold(17).unwrap() - (4.28 - 0.4 * 0.28)).abs() < 1e-12);
    }

    #[test]
    fn one_clean_series_in_twenty_is_flagged_and_no_more() {
        let mut noise = SplitMix::new(11);
        for n in [4, 6, 8, 12, 30] {
            let threshold = odd_threshold(n).unwrap();
            let flagged = (0..4_000)
                .filter(|_| {
                    let laps: Vec<f64> = (0..n).map(|_| (noise.normal() * 0.03).exp()).collect();
                    !odd_laps(&laps, threshold, 0.0).unwrap().is_empty()
                })
                .count();
            // 5 % of 4,000 is 200; four standard deviations are 55.
            assert!((145..=255).contains(&flagged), "n = {n}: {flagged}");
        }
    }

    #[test]
    fn what_does_not_spread_flags_nothing() {
        assert_eq!(modified_z(&[20.0, 20.0, 20.0, 20.0, 21.0]).unwrap().z, None);
        assert_eq!(odd_laps(&[20.0, 20.0, 20.0, 20.0, 21.0], 3.0, 0.01), Ok(vec![]));
        assert_eq!(odd_laps(&[1.000, 1.001, 1.002, 1.001, 1.009], 3.0, 0.01), Ok(vec![]));
    }
}
