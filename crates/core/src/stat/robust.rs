//! Ratios that a single odd lap cannot move far: for a second look, never for the verdict.

use super::{Interval, LogRatio, StatError, logs, mean, quantile::median};

/// The ratio of two series by ranks.
#[derive(Clone, Debug, PartialEq)]
pub struct ShiftRatio {
    /// The median of all ratios b / a.
    pub ratio: f64,
    /// How many of the sorted ratios lie outside of the interval at either end, plus one.
    pub k: usize,
    /// The interval; `None` where so few values cannot reach its confidence.
    pub interval: Option<Interval>,
    /// The confidence that it reaches.
    pub achieved: Option<f64>,
    /// The statistic of Mann and Whitney: in how many pairs b is above a, ties by half.
    pub u: f64,
    /// Its exact two-sided p, of untied values.
    pub p: f64,
}

/// Returns the ratio b / a by the median of all pairs, with its interval of order statistics.
///
/// ```text
/// D = sorted ln(bⱼ/aᵢ), N = n·m of them        ratio = exp(median D)
/// k = the largest with 2·P(U ≤ k − 1) ≤ 1 − conf        interval = exp(D₍ₖ₎) … exp(D₍N₊₁₋ₖ₎)
/// ```
/// * Shape: `a` and `b` hold at least 1 positive value each. O(n·m·log(n·m) + n²·m).
/// * Units: none; `a` and `b` share theirs.
/// * Errors: [`StatError::TooFew`], [`StatError::NotPositive`], [`StatError::OutOfRange`].
/// * Source: Hodges and Lehmann (1963), <https://doi.org/10.1214/aoms/1177704172>; Mann and Whitney
///   (1947), <https://doi.org/10.1214/aoms/1177730491>.
pub fn shift_ratio(a: &[f64], b: &[f64], conf: f64) -> Result<ShiftRatio, StatError> {
    if !(conf > 0.0 && conf < 1.0) {
        return Err(StatError::OutOfRange { name: "conf", value: conf });
    }
    let (a, b) = (logs(a)?, logs(b)?);
    let mut all: Vec<f64> = b.iter().flat_map(|b| a.iter().map(move |a| b - a)).collect();
    all.sort_by(f64::total_cmp);
    let above = |difference: &f64| match difference.total_cmp(&0.0) {
        std::cmp::Ordering::Greater => 1.0,
        std::cmp::Ordering::Equal => 0.5,
        std::cmp::Ordering::Less => 0.0,
    };
    let u: f64 = all.iter().map(above).sum();
    let chances = chances(a.len(), b.len());
    let up_to = |most: usize| chances.iter().take(most + 1).sum::<f64>();
    let k = (1..=all.len() / 2).take_while(|k| 2.0 * up_to(k - 1) <= 1.0 - conf).last();
    let k = k.unwrap_or(0);
    let rarer = u.min(all.len() as f64 - u).floor() as usize;
    Ok(ShiftRatio {
        ratio: median(&all)?.exp(),
        k,
        interval: (k > 0)
            .then(|| Interval { low: all[k - 1].exp(), high: all[all.len() - k].exp() }),
        achieved: (k > 0).then(|| 1.0 - 2.0 * up_to(k - 1)),
        u,
        p: (2.0 * up_to(rarer)).min(1.0),
    })
}

/// Returns the chance of each value of U, from 0 on, where both sides are alike.
fn chances(n: usize, m: usize) -> Vec<f64> {
    // Ways to put n of n + m values so that their ranks exceed the least by u: by dynamic programming
    // over the values, each of which adds as much as there are others below it.
    let most = n * m;
    let mut ways = vec![vec![0.0; most + 1]; n + 1];
    ways[0][0] = 1.0;
    for value in 0..n + m {
        for taken in (1..=n.min(value + 1)).rev() {
            let below = value + 1 - taken;
            for u in (below..=most).rev() {
                let more = ways[taken - 1][u - below];
                ways[taken][u] += more;
            }
        }
    }
    let all: f64 = ways[n].iter().sum();
    ways[n].iter().map(|ways| ways / all).collect()
}

/// Returns the ratio of two independent series by Yuen's t on trimmed logs.
///
/// ```text
/// g = ⌊trim·n⌋, h = n − 2g, of sorted logs        ln(b/a) = trimmed mean B − trimmed mean A
/// d = (n − 1)·s²w / (h·(h − 1))        se² = dA + dB        df = (dA + dB)² / (dA²/(hA − 1) + dB²/(hB − 1))
/// ```
/// where s²w is the variance of the logs with the g lowest and highest drawn in to their neighbours.
///
/// * Shape: `a` and `b` hold so many positive values that 2 are left of each. O(n log n).
/// * Units: none; `trim` is a fraction of each end, 0 ≤ `trim` < 0.5.
/// * Errors: [`StatError::TooFew`], [`StatError::NotPositive`], [`StatError::OutOfRange`].
/// * Source: Yuen (1974), <https://doi.org/10.1093/biomet/61.1.165>.
pub fn trimmed_ratio(a: &[f64], b: &[f64], trim: f64) -> Result<LogRatio, StatError> {
    if !(0.0..0.5).contains(&trim) {
        return Err(StatError::OutOfRange { name: "trim", value: trim });
    }
    let (a, b) = (trimmed(a, trim)?, trimmed(b, trim)?);
    let pooled = a.d.powi(2) / (a.left - 1.0) + b.d.powi(2) / (b.left - 1.0);
    let df = if pooled > 0.0 { (a.d + b.d).powi(2) / pooled } else { a.left + b.left - 2.0 };
    Ok(LogRatio { log: b.mean - a.mean, se: (a.d + b.d).sqrt(), df })
}

struct Trimmed {
    mean: f64,
    /// The squared standard error of the mean.
    d: f64,
    left: f64,
}

fn trimmed(values: &[f64], trim: f64) -> Result<Trimmed, StatError> {
    let mut sorted = logs(values)?;
    sorted.sort_by(f64::total_cmp);
    let n = sorted.len();
    let g = (trim * n as f64).floor() as usize;
    let left = n - 2 * g;
    if left < 2 {
        return Err(StatError::TooFew { needed: 2 * g + 2, found: n });
    }
    let mean_left = mean(&sorted[g..n - g])?;
    let (low, high) = (sorted[g], sorted[n - 1 - g]);
    let drawn: Vec<f64> = sorted.iter().map(|value| value.clamp(low, high)).collect();
    let spread = super::standard_deviation(&drawn)?.powi(2);
    let (n, left) = (n as f64, left as f64);
    Ok(Trimmed { mean: mean_left, d: (n - 1.0) * spread / (left * (left - 1.0)), left })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ranks_of_three_and_three_can_claim_nothing() {
        let found = shift_ratio(&[1.0, 1.1, 1.2], &[2.0, 2.1, 2.2], 0.95).unwrap();
        assert_eq!((found.k, found.interval, found.u), (0, None, 9.0));
        // Two of the twenty ways to share six ranks are as extreme.
        assert!((found.p - 0.1).abs() < 1e-12);
    }

    #[test]
    fn the_chances_of_two_and_two_are_counted_by_hand() {
        // Ranks 12, 13, 14, 23, 24, 34 for the first: U of 0, 1, 2, 2, 3, 4.
        let wanted = [1.0, 1.0, 2.0, 1.0, 1.0].map(|ways| ways / 6.0);
        assert_eq!(chances(2, 2), wanted);
    }

    #[test]
    fn one_wild_lap_moves_neither() {
        let calm = [10.0, 10.1, 9.9, 10.05, 9.95, 10.02, 9.98, 10.01];
        let b = calm.map(|x| x * 1.05);
        let mut wild = b;
        wild[3] = 60.0;
        let ratio = |b: &[f64]| trimmed_ratio(&calm, b, 0.2).unwrap().ratio();
        assert!((ratio(&b) - 1.05).abs() < 1e-12 && (ratio(&wild) - 1.05).abs() < 0.005);
        let shift = |b: &[f64]| shift_ratio(&calm, b, 0.95).unwrap().ratio;
        assert!((shift(&b) - 1.05).abs() < 0.002 && (shift(&wild) - 1.05).abs() < 0.01);
        assert!(trimmed_ratio(&[1.0], &[1.0, 2.0], 0.2).is_err());
    }
}
