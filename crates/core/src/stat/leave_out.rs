//! One lap held against all the others: the test of a first lap.

use super::{StatError, logs, mean, standard_deviation, t_quantile, t_upper_tail};

/// One lap against the rest.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LeftOut {
    /// Its t.
    pub t: f64,
    /// Degrees of freedom.
    pub df: f64,
    /// One-sided p of 'it is no slower than the rest'.
    pub p_slower: f64,
    /// How much longer it took than the typical of the rest, as a fraction.
    pub excess: f64,
}

/// Returns the value at `index` held against all the others.
///
/// ```text
/// t = (yᵢ − ȳ₋ᵢ) / (s₋ᵢ·√(1 + 1/(n − 1)))     df = n − 2,   y = ln x
/// ```
/// * Shape: `n ≥ 4` positive values; `index` counts from 0.
/// * Units: none.
/// * Errors: [`StatError::TooFew`], [`StatError::NotPositive`], [`StatError::OutOfRange`].
/// * Source: the externally studentised residual; Cook and Weisberg (1982), *Residuals and
///   Influence in Regression*, 2.2.
pub fn left_out(values: &[f64], index: usize) -> Result<LeftOut, StatError> {
    let n = values.len();
    if n < 4 {
        return Err(StatError::TooFew { needed: 4, found: n });
    }
    let mut rest = logs(values)?;
    if index >= n {
        return Err(StatError::OutOfRange { name: "index", value: index as f64 });
    }
    let own = rest.remove(index);
    let (centre, spread) = (mean(&rest)?, standard_deviation(&rest)?);
    let df = (n - 2) as f64;
    let t = (own - centre) / (spread * (1.0 + 1.0 / (n - 1) as f64).sqrt());
    let p_slower = if own == centre { 0.5 } else { t_upper_tail(t, df)? };
    Ok(LeftOut { t, df, p_slower, excess: (own - centre).exp_m1() })
}

/// Returns the |t| beyond which any lap of `n` would be called different at 5 %, whichever it is.
///
/// ```text
/// t(1 − 0.05/(2n); n − 2)
/// ```
/// * Errors: [`StatError::OutOfRange`] below three laps.
/// * Source: Bonferroni's inequality; Cook and Weisberg (1982), 2.2.2.
/// * Units: none (a quantile of t).
pub fn left_out_critical(n: usize) -> Result<f64, StatError> {
    t_quantile(1.0 - 0.05 / (2.0 * n as f64), n as f64 - 2.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_slow_first_lap_stands_out_and_a_usual_one_does_not() {
        let slow = left_out(&[75.9, 71.2, 70.8, 71.5, 70.9, 71.3], 0).unwrap();
        assert!(slow.p_slower < 0.001 && (slow.excess - 0.067).abs() < 0.001, "{slow:?}");
        let usual = left_out(&[71.0, 71.2, 70.8, 71.5, 70.9, 71.3], 0).unwrap();
        assert!(usual.p_slower > 0.3, "{usual:?}");
        assert!(left_out(&[1.0, 1.0, 1.0], 0).is_err());
    }
}
