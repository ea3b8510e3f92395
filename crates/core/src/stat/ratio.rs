//! The ratio of two cells: Welch's t on logs, the paired t on logs, and sameness within a margin.

use super::{Interval, StatError, logs, mean, standard_deviation, t_quantile, t_upper_tail};

/// An estimated ratio b / a on the log scale, with what its interval needs.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LogRatio {
    /// `ln(b / a)`.
    pub log: f64,
    /// Standard error of `log`.
    pub se: f64,
    /// Degrees of freedom of `se`.
    pub df: f64,
}

/// Two one-sided tests of sameness.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SameWithin {
    /// p of 'b is below a by the margin or more'.
    pub p_lower: f64,
    /// p of 'b is above a by the margin or more'.
    pub p_upper: f64,
}

impl LogRatio {
    /// Returns the ratio b / a.
    pub fn ratio(&self) -> f64 {
        self.log.exp()
    }

    /// Returns half the width of the log interval: `t(0.5 + conf/2; df)·se`.
    ///
    /// * Errors: [`StatError::OutOfRange`] for a confidence outside 0 to 1.
    pub fn half_width(&self, conf: f64) -> Result<f64, StatError> {
        Ok(t_quantile(0.5 + conf / 2.0, self.df)? * self.se)
    }

    /// Returns the interval of the ratio b / a.
    ///
    /// * Errors: as of [`Self::half_width`].
    pub fn interval(&self, conf: f64) -> Result<Interval, StatError> {
        let half = self.half_width(conf)?;
        Ok(Interval { low: (self.log - half).exp(), high: (self.log + half).exp() })
    }

    /// Returns the t statistic of 'no difference': infinite when nothing spreads.
    pub fn t(&self) -> f64 {
        self.log / self.se
    }

    /// Returns the two-sided p of 'no difference'.
    ///
    /// * Errors: as of [`t_upper_tail`].
    pub fn p(&self) -> Result<f64, StatError> {
        if self.log == 0.0 {
            return Ok(1.0);
        }
        Ok(2.0 * t_upper_tail(self.t().abs(), self.df)?)
    }
}

/// Returns the ratio of two independent series by Welch's t on logs.
///
/// ```text
/// ln(b/a) = ȳB − ȳA     se² = sA²/nA + sB²/nB     df = se⁴ / Σ (s²/n)²/(n − 1),   y = ln x
/// ```
/// * Shape: `a` and `b` hold at least 2 positive values each; lengths may differ. O(n).
/// * Units: none; `a` and `b` share theirs.
/// * Errors: [`StatError::TooFew`], [`StatError::NotPositive`].
/// * Source: Welch (1947), <https://doi.org/10.1093/biomet/34.1-2.28>.
pub fn welch(a: &[f64], b: &[f64]) -> Result<LogRatio, StatError> {
    let (a, b) = (logs(a)?, logs(b)?);
    let (va, vb) = (standard_error_squared(&a)?, standard_error_squared(&b)?);
    let pooled = va.powi(2) / (a.len() - 1) as f64 + vb.powi(2) / (b.len() - 1) as f64;
    // Neither side spreads: any degrees of freedom do, the interval has no width.
    let df = if pooled > 0.0 { (va + vb).powi(2) / pooled } else { (a.len() + b.len() - 2) as f64 };
    Ok(LogRatio { log: mean(&b)? - mean(&a)?, se: (va + vb).sqrt(), df })
}

/// Returns the ratio of two series run in pairs, by the t of their log ratios.
///
/// ```text
/// d = ln(b/a) pair by pair     ln(b/a) = d̄     se = s(d)/√n     df = n − 1
/// ```
/// * Shape: `a[i]` and `b[i]` are one pair; at least 2 pairs. O(n).
/// * Units: none; `a` and `b` share theirs.
/// * Errors: [`StatError::Unpaired`], [`StatError::TooFew`], [`StatError::NotPositive`].
/// * Source: the paired t test (Student, 1908) on logs.
pub fn paired(a: &[f64], b: &[f64]) -> Result<LogRatio, StatError> {
    if a.len() != b.len() {
        return Err(StatError::Unpaired { a: a.len(), b: b.len() });
    }
    let differences: Vec<f64> = logs(a)?.iter().zip(logs(b)?).map(|(a, b)| b - a).collect();
    Ok(LogRatio {
        log: mean(&differences)?,
        se: standard_error_squared(&differences)?.sqrt(),
        df: (differences.len() - 1) as f64,
    })
}

/// Returns the two one-sided tests of 'a and b are the same within `margin`'.
///
/// ```text
/// same at 5 % when both p < 0.05, which is: the 90 % interval lies inside ±ln(1 + margin)
/// ```
/// * Units: none; `margin` is a fraction above 0 (0.02 for 2 %).
/// * Errors: [`StatError::OutOfRange`] for a margin not above 0.
/// * Source: Schuirmann (1987), <https://doi.org/10.1007/BF01068419>.
pub fn same_within(ratio: &LogRatio, margin: f64) -> Result<SameWithin, StatError> {
    if !(margin > 0.0 && margin.is_finite()) {
        return Err(StatError::OutOfRange { name: "margin", value: margin });
    }
    let bound = margin.ln_1p();
    Ok(SameWithin {
        p_lower: t_upper_tail((ratio.log + bound) / ratio.se, ratio.df)?,
        p_upper: t_upper_tail((bound - ratio.log) / ratio.se, ratio.df)?,
    })
}

impl SameWithin {
    /// Returns the p of the whole: the larger of the two.
    pub fn p(&self) -> f64 {
        self.p_lower.max(self.p_upper)
    }
}

fn standard_error_squared(logs: &[f64]) -> Result<f64, StatError> {
    Ok(standard_deviation(logs)?.powi(2) / logs.len() as f64)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn pairs_need_partners() {
        assert_eq!(paired(&[1.0, 2.0], &[1.0]), Err(StatError::Unpaired { a: 2, b: 1 }));
        assert_eq!(paired(&[1.0], &[1.0]), Err(StatError::TooFew { needed: 2, found: 1 }));
        assert!(welch(&[1.0], &[1.0, 2.0]).is_err());
    }

    #[test]
    fn series_without_spread_divide_by_nothing() {
        let equal = welch(&[2.0, 2.0], &[2.0, 2.0]).unwrap();
        assert_eq!(equal.p(), Ok(1.0));
        let apart = welch(&[2.0, 2.0], &[3.0, 3.0]).unwrap();
        assert_eq!(apart.p(), Ok(0.0));
        assert_eq!(apart.half_width(0.95), Ok(0.0));
    }

    #[test]
    fn a_drift_that_both_share_leaves_pairs_alone() {
        // Each pair drifts up by 5 %, b is always 2 % above a: the spread is rounding only.
        let a = [100.0, 105.0, 110.25];
        let b = a.map(|x| x * 1.02);
        let found = paired(&a, &b).unwrap();
        assert!((found.ratio() - 1.02).abs() < 1e-12 && found.se < 1e-12);
    }

    proptest! {
        #[test]
        fn turning_the_question_round_turns_the_answer_round(
            a in prop::collection::vec(1.0..2.0f64, 2..12), b in prop::collection::vec(1.0..2.0f64, 2..12),
        ) {
            let (there, back) = (welch(&a, &b).unwrap(), welch(&b, &a).unwrap());
            prop_assert!((there.log + back.log).abs() < 1e-12);
            prop_assert!((there.p().unwrap() - back.p().unwrap()).abs() < 1e-9);
            let same = same_within(&there, 0.02).unwrap();
            let inside = there.interval(0.9).unwrap();
            let bound = 1.02f64;
            // p < 5 % and the 90 % interval inside the margin are one statement.
            prop_assert_eq!(same.p() < 0.05, inside.low > 1.0 / bound && inside.high < bound);
        }
    }
}
