//! Drift: whether laps got slower or faster one after another, and by how much in all.

use super::{StatError, logs, median, normal_upper_tail};

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

/// Beyond this many laps the exact law is that of the normal for all purposes.
const MOST_EXACT: usize = 60;

/// Returns the test of a trend in `values`, in the order driven.
///
/// ```text
/// S = Σ sign(xⱼ − xᵢ), i < j
/// ties, or n > 60: var S = (n(n−1)(2n+5) − Σ t(t−1)(2t+5))/18,   z = (|S| − 1)/√var
/// ```
/// * Shape: `n ≥ 2` values. O(n²) for the pairs, O(n³) for the exact law, n ≤ 60.
/// * Units: none.
/// * Errors: [`StatError::TooFew`].
/// * Source: Mann (1945), <https://doi.org/10.2307/1907187>; Kendall (1975), *Rank Correlation
///   Methods*, for ties.
pub fn trend(values: &[f64]) -> Result<Trend, StatError> {
    let n = values.len();
    if n < 2 {
        return Err(StatError::TooFew { needed: 2, found: n });
    }
    let mut s = 0i64;
    for (later, value) in values.iter().enumerate() {
        for earlier in &values[..later] {
            s += i64::from(value > earlier) - i64::from(value < earlier);
        }
    }
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
/// * Shape: `n ≥ 2` positive values. O(n² log n).
/// * Units: none.
/// * Errors: [`StatError::TooFew`], [`StatError::NotPositive`].
/// * Source: Sen (1968), <https://doi.org/10.1080/01621459.1968.10480934>.
pub fn slope(values: &[f64]) -> Result<Slope, StatError> {
    let n = values.len();
    if n < 2 {
        return Err(StatError::TooFew { needed: 2, found: n });
    }
    let logs = logs(values)?;
    let mut slopes = Vec::with_capacity(n * (n - 1) / 2);
    for later in 1..n {
        let to = |earlier: usize| (logs[later] - logs[earlier]) / (later - earlier) as f64;
        slopes.extend((0..later).map(to));
    }
    slopes.sort_by(f64::total_cmp);
    let slope_log = median(&slopes)?;
    Ok(Slope { slope_log, first_to_last: (slope_log * (n - 1) as f64).exp_m1() })
}

/// Returns the sizes of groups of equal values that hold more than one.
fn tie_sizes(values: &[f64]) -> Vec<usize> {
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
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
        let mut next = vec![0.0; shares.len() + k - 1];
        for (inversions, share) in shares.iter().enumerate() {
            for more in 0..k {
                next[inversions + more] += share / k as f64;
            }
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
}
