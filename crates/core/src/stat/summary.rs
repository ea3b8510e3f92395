//! One series summed up: mean, spread, median, typical value, extremes.

use super::{StatError, logs, median, sorted};

/// What a series of positive values looks like.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Summary {
    /// How many values.
    pub n: usize,
    /// Arithmetic mean, in the unit of the values.
    pub mean: f64,
    /// Standard deviation with n − 1, in the unit of the values; `None` for one value.
    pub sd: Option<f64>,
    /// Coefficient of variation `sd / mean`, without unit; `None` for one value.
    pub cv: Option<f64>,
    /// Median (type 7), in the unit of the values.
    pub median: f64,
    /// The typical value `exp(mean ln x)`, in the unit of the values.
    pub typical: f64,
    /// Standard deviation of the logs with n − 1, without unit; `None` for one value.
    pub sd_log: Option<f64>,
    /// Smallest value.
    pub min: f64,
    /// Largest value.
    pub max: f64,
}

/// Returns the arithmetic mean of `values`.
///
/// ```text
/// mean = Σx / n
/// ```
/// * Shape: `n ≥ 1` values. O(n).
/// * Units: that of the values.
/// * Errors: [`StatError::Empty`] if `n = 0`.
/// * Source: a definition.
pub fn mean(values: &[f64]) -> Result<f64, StatError> {
    if values.is_empty() {
        return Err(StatError::Empty);
    }
    Ok(values.iter().sum::<f64>() / values.len() as f64)
}

/// Returns the sample standard deviation of `values`, in two passes.
///
/// ```text
/// s = √( Σ(x − mean)² / (n − 1) )
/// ```
/// * Shape: `n ≥ 2` values. O(n).
/// * Units: that of the values.
/// * Errors: [`StatError::TooFew`] if `n < 2`: one value has no spread, and 0 would be a lie.
/// * Source: Chan, Golub and LeVeque (1983), two-pass form, <https://doi.org/10.1080/00031305.1983.10483115>.
pub fn standard_deviation(values: &[f64]) -> Result<f64, StatError> {
    if values.len() < 2 {
        return Err(StatError::TooFew { needed: 2, found: values.len() });
    }
    let centre = mean(values)?;
    let squares: f64 = values.iter().map(|x| (x - centre).powi(2)).sum();
    Ok((squares / (values.len() - 1) as f64).sqrt())
}

/// Returns the summary of `values`.
///
/// * Shape: `n ≥ 1` positive, finite values in any order. O(n log n).
/// * Units: those of the values; `cv` and `sd_log` have none.
/// * Errors: [`StatError::Empty`], or [`StatError::NotPositive`] for a value without a log.
pub fn summary(values: &[f64]) -> Result<Summary, StatError> {
    let logs = logs(values)?;
    let mean_value = mean(values)?;
    let sd = standard_deviation(values).ok();
    let sorted = sorted(values);
    Ok(Summary {
        n: values.len(),
        mean: mean_value,
        sd,
        cv: sd.map(|sd| sd / mean_value),
        median: median(&sorted)?,
        typical: mean(&logs)?.exp(),
        sd_log: standard_deviation(&logs).ok(),
        min: sorted[0],
        max: sorted[sorted.len() - 1],
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn one_value_has_no_spread() {
        let one = summary(&[61.2]).unwrap();
        assert_eq!((one.sd, one.cv, one.sd_log), (None, None, None));
        assert_eq!(summary(&[]), Err(StatError::Empty));
        assert_eq!(summary(&[1.0, 0.0]), Err(StatError::NotPositive { value: 0.0 }));
    }

    #[test]
    fn a_constant_series_spreads_by_zero() {
        let flat = summary(&[20.0; 5]).unwrap();
        assert_eq!((flat.sd, flat.sd_log), (Some(0.0), Some(0.0)));
    }

    proptest! {
        #[test]
        fn order_does_not_matter_and_scale_carries_through(
            mut values in prop::collection::vec(1e-3..1e3f64, 2..30), scale in 1e-3..1e3f64,
        ) {
            let close = |a: f64, b: f64| (a - b).abs() <= 1e-9 * a.abs().max(b.abs()).max(1e-9);
            let before = summary(&values).unwrap();
            values.reverse();
            let turned = summary(&values).unwrap();
            prop_assert!(close(before.typical, turned.typical) && before.median == turned.median);
            let scaled: Vec<f64> = values.iter().map(|x| x * scale).collect();
            let after = summary(&scaled).unwrap();
            prop_assert!(close(after.typical, before.typical * scale));
            prop_assert!((after.cv.unwrap() - before.cv.unwrap()).abs() < 1e-9);
            let slack = 1.0 + 1e-12;
            prop_assert!(before.min <= before.typical * slack && before.typical <= before.max * slack);
        }
    }
}
