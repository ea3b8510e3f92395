//! Drift: whether laps got slower or faster one after another, and by how much in all.

use super::{StatError, logs, normal_upper_tail, sorted};

/// Whether values rise or fall one after another.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Trend {
    /// Mann–Kendall's S: pairs that rise less pairs that fall.
    pub s: i64,
    /// Its variance where the normal law is used; `None` where the exact one is.
    pub variance: Option<f64>,
    /// Two-sided p of 'no drift': exact without ties, by the normal law with them.
    pub p: f64,
}

/// How far values rise or fall.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Slope {
    /// Theil–Sen slope of the logs, from one lap to the next.
    pub slope_log: f64,
    /// Change from the first lap to the last by that slope, as a fraction.
    pub first_to_last: f64,
}

/// Up to so many laps all slopes between two of them are written down: twenty thousand at most.
const FEW: usize = 200;

/// Beyond this many laps the exact law is that of the normal for all purposes.
const MOST_EXACT: usize = 60;

/// Returns the test of a trend in `values`, in the order run.
///
/// ```text
/// S = Σ sign(xⱼ − xᵢ), i < j
/// ties, or n > 60: var S = (n(n−1)(2n+5) − Σ t(t−1)(2t+5))/18,   z = (|S| − 1)/√var
/// ```
/// * Shape: `n ≥ 2` values. O(n log n); the exact law, of n ≤ 60, is the same few thousand steps whatever the values.
/// * Units: none.
/// * Errors: [`StatError::TooFew`].
/// * Source: Mann (1945), <https://doi.org/10.2307/1907187>; Kendall (1975), *Rank Correlation
///   Methods*, for ties.
pub fn trend(values: &[f64]) -> Result<Trend, StatError> {
    let n = values.len();
    if n < 2 {
        return Err(StatError::TooFew { needed: 2, found: n });
    }
    let (falls, rises) = (falls(values), falls(&values.iter().map(|x| -x).collect::<Vec<_>>()));
    let s = rises as i64 - falls as i64;
    let tied = tie_sizes(values);
    let variance = (!tied.is_empty() || n > MOST_EXACT).then(|| variance(n, &tied));
    let p = variance.map_or_else(|| exact_p(n, s), |variance| normal_p(s, variance));
    Ok(Trend { s, variance, p })
}

/// Returns how far `values` rise or fall, by the median of all slopes between two of them.
///
/// ```text
/// slope = median of (yⱼ − yᵢ)/(j − i),   y = ln x
/// ```
/// * Shape: `n ≥ 2` positive values. O(n log n) time and O(n) memory: of many laps the slopes are counted and not kept.
/// * Units: none.
/// * Errors: [`StatError::TooFew`], [`StatError::NotPositive`].
/// * Source: counting by order, Matoušek (1991), <https://doi.org/10.1016/0020-0190(91)90177-J>; Sen (1968), <https://doi.org/10.1080/01621459.1968.10480934>.
pub fn slope(values: &[f64]) -> Result<Slope, StatError> {
    let n = values.len();
    if n < 2 {
        return Err(StatError::TooFew { needed: 2, found: n });
    }
    let logs = logs(values)?;
    let slope_log = if n > FEW { median_slope(&logs) } else { median_of(slopes(&logs)) };
    Ok(Slope { slope_log, first_to_last: (slope_log * (n - 1) as f64).exp_m1() })
}

/// Returns whether values of these logs may change by a share of `least` or more from first to last, by their [`slope`]:
/// where not, that is far quicker to tell than the slope itself.
///
/// * Shape: the logs of any number of values, `least` between 0 and 1. O(n log n), in two passes and not in a hundred.
pub fn may_change_by(logs: &[f64], least: f64) -> bool {
    let n = logs.len();
    if n <= FEW {
        return true;
    }
    let (lower, upper) = middle_ranks(n);
    // Halving finds the slope to a part in 10¹⁸ of its range: what is near is looked at whole.
    let bound = |change: f64| 0.999 * change.ln_1p() / (n - 1) as f64;
    let rises_less = slopes_below(logs, bound(least)) >= upper;
    let falls_less = || slopes_below(logs, bound(-least)) < lower;
    !(rises_less && falls_less())
}

/// Returns the ranks of the two slopes in the middle, of all between two of `n` values; one of an odd number.
fn middle_ranks(n: usize) -> (u64, u64) {
    let pairs = (n * (n - 1) / 2) as u64;
    (pairs.div_ceil(2), pairs / 2 + 1)
}

/// Returns how many slopes between two of `logs` lie below `slope`: those where y − slope·place falls.
fn slopes_below(logs: &[f64], slope: f64) -> u64 {
    let level: Vec<f64> = logs.iter().zip(0..).map(|(y, i)| y - slope * f64::from(i)).collect();
    falls(&level)
}

/// Returns every slope between two of `logs`.
fn slopes(logs: &[f64]) -> Vec<f64> {
    let from = |later: usize| {
        let to = move |earlier: usize| (logs[later] - logs[earlier]) / (later - earlier) as f64;
        (0..later).map(to)
    };
    (1..logs.len()).flat_map(from).collect()
}

/// Returns the median of some values, in time that grows as their number does.
fn median_of(mut values: Vec<f64>) -> f64 {
    let middle = values.len() / 2;
    let is_even = values.len().is_multiple_of(2);
    let (below, &mut upper, _) = values.select_nth_unstable_by(middle, f64::total_cmp);
    let lower = below.iter().copied().max_by(f64::total_cmp).filter(|_| is_even);
    lower.map_or(upper, |lower| lower + 0.5 * (upper - lower))
}

/// Returns the median of all slopes between two of `logs`, by halving.
fn median_slope(logs: &[f64]) -> f64 {
    let range = |(low, high): (f64, f64), y: &f64| (low.min(*y), high.max(*y));
    let (low, high) = logs.iter().fold((f64::INFINITY, f64::NEG_INFINITY), range);
    let widest = high - low;
    let nth = |rank: u64| {
        let (mut low, mut high) = (-widest, widest);
        // Sixty halvings leave of a range of logs what rounding makes of it.
        for _ in 0..60 {
            let middle = (low + high) / 2.0;
            if slopes_below(logs, middle) < rank { low = middle } else { high = middle }
        }
        (low + high) / 2.0
    };
    let (lower, upper) = middle_ranks(logs.len());
    if lower == upper { nth(lower) } else { (nth(lower) + nth(upper)) / 2.0 }
}

/// Returns how many pairs fall: a later value below an earlier one. O(n log n), by merging.
fn falls(values: &[f64]) -> u64 {
    fn merged(values: &mut [f64], spare: &mut Vec<f64>) -> u64 {
        if values.len() < 2 {
            return 0;
        }
        let half = values.len() / 2;
        let (left, right) = values.split_at_mut(half);
        let mut count = merged(left, spare) + merged(right, spare);
        spare.clear();
        let (mut l, mut r) = (0, 0);
        while l < left.len() || r < right.len() {
            if r == right.len() || l < left.len() && left[l] <= right[r] {
                spare.push(left[l]);
                l += 1;
            } else {
                count += (left.len() - l) as u64;
                spare.push(right[r]);
                r += 1;
            }
        }
        values.copy_from_slice(spare);
        count
    }
    merged(&mut values.to_vec(), &mut Vec::with_capacity(values.len()))
}

/// Returns the sizes of groups of equal values that hold more than one.
fn tie_sizes(values: &[f64]) -> Vec<usize> {
    let sorted = sorted(values);
    sorted.chunk_by(|a, b| a == b).map(<[f64]>::len).filter(|&size| size > 1).collect()
}

fn variance(n: usize, ties: &[usize]) -> f64 {
    let term = |n: usize| {
        let n = n as f64;
        n * (n - 1.0) * (2.0 * n + 5.0)
    };
    (term(n) - ties.iter().map(|&size| term(size)).sum::<f64>()) / 18.0
}

/// Returns z of S with the correction for continuity.
pub fn continuity_z(s: i64, variance: f64) -> f64 {
    let corrected = (s - s.signum()) as f64;
    if variance > 0.0 { corrected / variance.sqrt() } else { 0.0 }
}

fn normal_p(s: i64, variance: f64) -> f64 {
    2.0 * normal_upper_tail(continuity_z(s, variance).abs())
}

/// Returns the two-sided exact p: the share of all orders with |S| as large or larger.
fn exact_p(n: usize, s: i64) -> f64 {
    // How many orders of k values have i inversions, as shares: c(k, i) = Σ c(k − 1, i − j) / k.
    let mut shares = vec![1.0];
    for k in 2..=n {
        // The sum of the last k shares, moved along.
        let (mut window, mut next) = (0.0f64, Vec::with_capacity(shares.len() + k - 1));
        for inversions in 0..shares.len() + k - 1 {
            window += shares.get(inversions).copied().unwrap_or(0.0);
            if inversions >= k {
                window -= shares[inversions - k];
            }
            next.push(window.max(0.0) / k as f64);
        }
        shares = next;
    }
    let pairs = (n * (n - 1) / 2) as i64;
    let extreme = |inversions: usize| (pairs - 2 * inversions as i64).abs() >= s.abs();
    let p: f64 =
        shares.iter().enumerate().filter(|(i, _)| extreme(*i)).map(|(_, share)| share).sum();
    p.min(1.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;
    use crate::stat::median;

    #[test]
    fn a_rise_of_five_is_one_order_in_sixty() {
        // 5! = 120 orders, and two of them are as extreme.
        let found = trend(&[1.0, 1.1, 1.2, 1.3, 1.4]).unwrap();
        assert_eq!((found.s, found.variance), (10, None));
        assert!((found.p - 2.0 / 120.0).abs() < 1e-15);
        let fall = trend(&[1.4, 1.3, 1.2, 1.1, 1.0]).unwrap();
        assert_eq!((fall.s, fall.p), (-10, found.p));
    }

    #[test]
    fn many_laps_have_the_slope_and_the_s_that_all_pairs_would_give() {
        let mut noise = SplitMix::new(5);
        let logs: Vec<f64> =
            (0..301).map(|n| 0.0004 * f64::from(n) + 0.02 * noise.normal()).collect();
        let values: Vec<f64> = logs.iter().map(|y| y.exp()).collect();
        let mut sorted = slopes(&super::logs(&values).unwrap());
        sorted.sort_by(f64::total_cmp);
        let all = median(&sorted).unwrap();
        assert_eq!(median_of(sorted), all);
        assert!((slope(&values).unwrap().slope_log - all).abs() < 1e-12);
        let sign = |(a, b): (usize, usize)| {
            i64::from(values[b] > values[a]) - i64::from(values[b] < values[a])
        };
        let pairs = (0..values.len()).flat_map(|b| (0..b).map(move |a| (a, b)));
        assert_eq!(trend(&values).unwrap().s, pairs.map(sign).sum::<i64>());
    }

    #[test]
    fn what_does_not_change_does_not_drift() {
        let flat = trend(&[2.0; 6]).unwrap();
        assert_eq!((flat.s, flat.p, slope(&[2.0; 6]).unwrap().first_to_last), (0, 1.0, 0.0));
        assert!(trend(&[1.0]).is_err() && slope(&[1.0]).is_err());
    }

    #[test]
    fn the_exact_law_and_the_normal_one_meet_where_one_takes_over() {
        for s in [60, 200, 400] {
            let near = normal_p(s, variance(MOST_EXACT, &[]));
            assert!((exact_p(MOST_EXACT, s) - near).abs() < 0.002, "S = {s}");
        }
    }

    #[test]
    fn what_may_not_change_enough_does_not() {
        let mut random = SplitMix::new(21);
        let mut seen = [0, 0];
        for lap in 0..200_u32 {
            // Changes from first to last of up to 2 % either way, under a spread of 1 %.
            let change = (f64::from(lap) - 100.0) * 2e-4;
            let n = 201 + lap as usize % 7;
            let value =
                |at: usize| (change * at as f64 / (n - 1) as f64 + 0.01 * random.normal()).exp();
            let values: Vec<f64> = (0..n).map(value).collect();
            let changes = slope(&values).unwrap().first_to_last.abs() >= 0.01;
            let may = may_change_by(&logs(&values).unwrap(), 0.01);
            assert!(may || !changes, "{change}");
            seen[usize::from(may)] += 1;
        }
        assert!(seen[0] > 50 && seen[1] > 50, "{seen:?}");
        assert!(may_change_by(&[0.0; 5], 0.01), "few are looked at whole");
    }
}
