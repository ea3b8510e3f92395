//! Intervals of one series: the typical value, and the median by order statistics.

use super::{StatError, logs, mean, standard_deviation, t_quantile};
use serde::{Deserialize, Serialize};

/// A two-sided interval.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Interval {
    /// Lower end.
    pub low: f64,
    /// Upper end; infinite, and null in JSON, where it is open.
    #[cfg_attr(test, schemars(with = "Option<f64>"))]
    pub high: f64,
}

/// A value with its interval.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Ranged {
    /// The value; infinite, and null in JSON, where it is without end.
    #[cfg_attr(test, schemars(with = "Option<f64>"))]
    pub value: f64,
    /// Its interval.
    #[serde(flatten)]
    pub interval: Interval,
}

/// An interval of the median, with the confidence it really reaches.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct MedianInterval {
    /// The interval, in the unit of the values.
    pub interval: Interval,
    /// Rank of the lower end, counted from 1.
    pub rank_low: usize,
    /// Rank of the upper end, counted from 1.
    pub rank_high: usize,
    /// The coverage reached, at least what was asked for.
    pub achieved: f64,
}

/// Returns the t interval of the typical value `exp(mean ln x)`.
///
/// ```text
/// exp( ȳ ± t(1 − (1 − conf)/2; n − 1) · s/√n ),   y = ln x
/// ```
/// * Shape: `n ≥ 2` positive values. O(n).
/// * Units: that of the values; `conf` has none and lies strictly between 0 and 1.
/// * Errors: [`StatError::TooFew`] if `n < 2`, [`StatError::NotPositive`], [`StatError::OutOfRange`].
/// * Source: the t interval (Student, 1908) on logs; Limpert, Stahel and Abbt (2001),
///   <https://doi.org/10.1641/0006-3568(2001)051[0341:LNDATS]2.0.CO;2>.
pub fn typical_interval(values: &[f64], conf: f64) -> Result<Interval, StatError> {
    let logs = logs(values)?;
    let sd = standard_deviation(&logs)?;
    let n = logs.len() as f64;
    let half = t_quantile(0.5 + conf / 2.0, n - 1.0)? * sd / n.sqrt();
    let centre = mean(&logs)?;
    Ok(Interval { low: (centre - half).exp(), high: (centre + half).exp() })
}

/// Returns the narrowest symmetric order-statistic interval of the median that reaches `conf`.
///
/// ```text
/// [x(k), x(n + 1 − k)],  coverage 1 − 2·P(B ≤ k − 1),  B ~ Binomial(n, ½)
/// ```
/// * Shape: `sorted` holds `n ≥ 6` values, ascending: below that no pair of values reaches 95 %.
/// * Units: that of the values; `conf` has none.
/// * Errors: [`StatError::TooFew`] if even the two extremes fall short of `conf`, or `n < 6`.
/// * Source: Conover (1999), *Practical Nonparametric Statistics*, 3.2.
pub fn median_interval(sorted: &[f64], conf: f64) -> Result<MedianInterval, StatError> {
    const LEAST: usize = 6;
    let n = sorted.len();
    let too_few = StatError::TooFew { needed: LEAST, found: n };
    if n < LEAST {
        return Err(too_few);
    }
    // Logs of the binomial terms, so that a thousand laps neither under- nor overflow.
    let mut log_term = n as f64 * 0.5f64.ln();
    let mut below = 0.0;
    let mut best = None;
    for k in 1..=n / 2 {
        below += log_term.exp();
        let achieved = 1.0 - 2.0 * below;
        if achieved < conf {
            break;
        }
        best = Some((k, achieved));
        log_term += ((n - k + 1) as f64 / k as f64).ln();
    }
    let (k, achieved) = best.ok_or(too_few)?;
    Ok(MedianInterval {
        interval: Interval { low: sorted[k - 1], high: sorted[n - k] },
        rank_low: k,
        rank_high: n + 1 - k,
        achieved,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_lap_has_no_interval() {
        assert_eq!(typical_interval(&[61.2], 0.95), Err(StatError::TooFew { needed: 2, found: 1 }));
    }

    #[test]
    fn six_values_reach_95_per_cent_by_their_extremes() {
        // 1 − 2/2⁶ = 0.96875.
        let found = median_interval(&[1.0, 2.0, 3.0, 4.0, 5.0, 6.0], 0.95).unwrap();
        assert_eq!((found.rank_low, found.rank_high, found.achieved), (1, 6, 0.96875));
        assert!(median_interval(&[1.0, 2.0, 3.0, 4.0, 5.0], 0.95).is_err());
        assert!(median_interval(&[1.0, 2.0, 3.0, 4.0, 5.0, 6.0], 0.99).is_err());
    }

    #[test]
    fn many_values_stay_finite() {
        let many: Vec<f64> = (1..=5_000).map(f64::from).collect();
        let found = median_interval(&many, 0.95).unwrap();
        // Normal approximation: half-width 0.98·√n = 69.3 ranks around 2,500.5.
        assert!((2_430..=2_432).contains(&found.rank_low), "{found:?}");
    }
}
