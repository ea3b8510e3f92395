//! An estimate: a contrast of the logs, its variance, and how well that is known.

use crate::stat::{
    Interval, StatError, normal_quantile, normal_upper_tail, t_quantile, t_upper_tail,
};

/// Degrees of freedom from which t is the normal.
const NORMAL: f64 = 1e6;

/// Differences of logs below this are rounding, and no difference.
const ROUNDING: f64 = 1e-12;

/// An estimated log, its variance, and how well the variance is known.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Estimate {
    /// The log of a value, or of a ratio.
    pub log: f64,
    /// The variance of `log`.
    pub variance: f64,
    /// The degrees of freedom of `variance`; infinite where it is not estimated.
    pub degrees: f64,
}

impl Estimate {
    /// Returns `log` with a variance that adds up from independent parts.
    ///
    /// ```text
    /// variance = Σ vᵢ        degrees = (Σ vᵢ)² / Σ vᵢ²/νᵢ
    /// ```
    /// * Shape: parts of (variance, degrees); none of them, or only zeros, give infinite degrees. O(n).
    /// * Source: Satterthwaite (1946), <https://doi.org/10.2307/3002019>.
    /// * Units: none (logs).
    pub fn of_parts(log: f64, parts: impl IntoIterator<Item = (f64, f64)>) -> Self {
        let (mut variance, mut below, mut fewest) = (0.0, 0.0, f64::INFINITY);
        for (part, degrees) in parts {
            variance += part;
            below += part * part / degrees;
            fewest = f64::min(fewest, degrees);
        }
        let degrees = if below > 0.0 { variance * variance / below } else { fewest };
        Self { log, variance, degrees }
    }

    /// Returns the estimate with further variance that is known as it stands.
    pub fn widened(self, variance: f64) -> Self {
        let parts = [(self.variance, self.degrees), (variance, f64::INFINITY)];
        Self::of_parts(self.log, parts)
    }

    /// Returns the difference of two independent estimates: this one less `other`.
    pub fn minus(self, other: Self) -> Self {
        let log = self.log - other.log;
        let log = if log.abs() < ROUNDING { 0.0 } else { log };
        let parts = [(self.variance, self.degrees), (other.variance, other.degrees)];
        Self::of_parts(log, parts)
    }

    /// Returns half the width of the log interval: `t(0.5 + confidence/2; degrees)·√variance`.
    ///
    /// * Errors: [`StatError::OutOfRange`] for a confidence outside 0 to 1.
    pub fn half_width(&self, confidence: f64) -> Result<f64, StatError> {
        let upper = 0.5 + confidence / 2.0;
        let times = match self.degrees < NORMAL {
            true => t_quantile(upper, self.degrees)?,
            false => normal_quantile(upper)?,
        };
        Ok(times * self.variance.sqrt())
    }

    /// Returns the one of both with the wider 95 % interval.
    ///
    /// * Errors: as of [`Self::half_width`].
    pub fn wider(self, other: Self) -> Result<Self, StatError> {
        Ok(if self.half_width(0.95)? >= other.half_width(0.95)? { self } else { other })
    }

    /// Returns the interval of the value, or of the ratio.
    ///
    /// * Errors: as of [`Self::half_width`].
    pub fn interval(&self, confidence: f64) -> Result<Interval, StatError> {
        let half = self.half_width(confidence)?;
        Ok(Interval { low: (self.log - half).exp(), high: (self.log + half).exp() })
    }

    /// Returns the two-sided p of 'the log is zero'.
    ///
    /// * Errors: as of [`t_upper_tail`].
    pub fn p(&self) -> Result<f64, StatError> {
        if self.log == 0.0 {
            return Ok(1.0);
        }
        let times = self.log.abs() / self.variance.sqrt();
        Ok(2.0
            * match self.degrees < NORMAL {
                true => t_upper_tail(times, self.degrees)?,
                false => normal_upper_tail(times),
            })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_add_up_and_the_degrees_lie_between_theirs() {
        // (1 + 1)² / (1/4 + 1/4) = 8.
        let two = Estimate::of_parts(0.5, [(1.0, 4.0), (1.0, 4.0)]);
        assert_eq!((two.log, two.variance, two.degrees), (0.5, 2.0, 8.0));
        // (1 + 3)² / (1/2 + 0) = 32.
        assert_eq!(Estimate::of_parts(0.0, [(1.0, 2.0)]).widened(3.0).degrees, 32.0);
        assert_eq!(Estimate::of_parts(0.0, []).degrees, f64::INFINITY);
    }

    #[test]
    fn what_is_known_as_it_stands_has_the_normal_interval() {
        let known = Estimate::of_parts(0.0, []).widened(1.0);
        assert!((known.half_width(0.95).unwrap() - 1.959_964).abs() < 1e-5);
        let estimated = Estimate::of_parts(0.0, [(1.0, 4.0)]);
        // t(0.975; 4) = 2.776445.
        assert!((estimated.half_width(0.95).unwrap() - 2.776_445).abs() < 1e-6);
    }

    #[test]
    fn equal_values_are_no_difference_however_they_were_rounded() {
        let of = |log| Estimate::of_parts(log, [(0.0, 3.0)]);
        let apart = of(0.1 + 0.2).minus(of(0.3));
        assert_eq!((apart.log, apart.p()), (0.0, Ok(1.0)));
        assert_eq!(of(0.2).minus(of(0.3)).p(), Ok(0.0));
    }
}
