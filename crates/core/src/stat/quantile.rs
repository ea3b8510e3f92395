//! Quantiles of a sorted series.

use super::StatError;

/// Returns the `p`-quantile of `sorted`, interpolating between the two nearest values.
///
/// ```text
/// h = (n − 1)·p        q = x[⌊h⌋] + (h − ⌊h⌋)·(x[⌈h⌉] − x[⌊h⌋])
/// ```
/// * Shape: `sorted` holds `n ≥ 1` finite values, ascending; `p` is one number. O(1).
/// * Units: the result has the unit of `sorted`; `p` has none and lies in `0..=1`.
/// * Errors: [`StatError::Empty`] if `n = 0`; [`StatError::OutOfRange`] if `p` is outside or NaN.
/// * Source: Hyndman and Fan (1996), definition 7, <https://doi.org/10.2307/2684934>.
pub fn quantile(sorted: &[f64], p: f64) -> Result<f64, StatError> {
    let last = sorted.len().checked_sub(1).ok_or(StatError::Empty)?;
    if !(0.0..=1.0).contains(&p) {
        return Err(StatError::OutOfRange { name: "p", value: p });
    }
    let h = last as f64 * p;
    let (low, high) = (sorted[h.floor() as usize], sorted[h.ceil() as usize]);
    Ok(low + h.fract() * (high - low))
}

/// Returns the median of `sorted`: [`quantile`] at one half.
///
/// * Shape: `n ≥ 1` values, ascending.
/// * Errors: as of [`quantile`].
pub fn median(sorted: &[f64]) -> Result<f64, StatError> {
    quantile(sorted, 0.5)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn interpolates_between_neighbours() {
        // h = 3 · 0.25 = 0.75, so 10 + 0.75 · (20 − 10).
        assert_eq!(quantile(&[10.0, 20.0, 30.0, 40.0], 0.25), Ok(17.5));
        assert_eq!(median(&[1.0, 2.0, 4.0, 9.0]), Ok(3.0));
        assert_eq!(quantile(&[7.0], 1.0), Ok(7.0));
    }

    #[test]
    fn refuses_what_has_no_quantile() {
        assert_eq!(quantile(&[], 0.5), Err(StatError::Empty));
        assert!(quantile(&[1.0], f64::NAN).is_err());
        assert!(quantile(&[1.0], 1.01).is_err());
    }
}
