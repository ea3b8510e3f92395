//! Scatter: squared deviations with their degrees of freedom, of one series or of several together.

use super::{StatError, mean, t_upper_tail};

/// Squared deviations, and how many of them are free.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Scatter {
    /// The sum of squares.
    pub squares: f64,
    /// Its degrees of freedom.
    pub degrees: f64,
}

impl Scatter {
    /// Returns the scatter of `logs` about their mean; nothing of fewer than two.
    ///
    /// * Shape: the logs of any number of values. O(n).
    pub fn about_mean(logs: &[f64]) -> Self {
        let Ok(centre) = mean(logs) else { return Self::default() };
        let squares = logs.iter().map(|log| (log - centre).powi(2)).sum();
        Self { squares, degrees: (logs.len() - 1) as f64 }
    }

    /// Returns the scatter of `logs` about their line of least squares; nothing of fewer than three.
    ///
    /// * Shape: the logs of any number of values, evenly spaced. O(n).
    pub fn about_line(logs: &[f64]) -> Self {
        let about = Self::about_mean(logs);
        if logs.len() < 3 {
            return Self::default();
        }
        let (slope, spread) = line(logs);
        let squares = (about.squares - slope * slope * spread).max(0.0);
        Self { squares, degrees: about.degrees - 1.0 }
    }

    /// Returns both together.
    pub fn plus(self, other: Self) -> Self {
        Self { squares: self.squares + other.squares, degrees: self.degrees + other.degrees }
    }

    /// Returns it without `part`, which it holds.
    pub fn without(self, part: Self) -> Self {
        Self {
            squares: (self.squares - part.squares).max(0.0),
            degrees: self.degrees - part.degrees,
        }
    }

    /// Returns the standard deviation; not a number without degrees of freedom.
    pub fn sd(self) -> f64 {
        (self.squares / self.degrees).sqrt()
    }

    fn variance(self) -> Option<f64> {
        (self.degrees > 0.0).then(|| self.squares / self.degrees)
    }
}

/// Returns the slope of `logs` from one to the next by least squares, and Σ (place − mean place)².
fn line(logs: &[f64]) -> (f64, f64) {
    let n = logs.len() as f64;
    let (middle, spread) = ((n - 1.0) / 2.0, n * (n * n - 1.0) / 12.0);
    let along = logs.iter().zip(0..).map(|(log, place)| (f64::from(place) - middle) * log);
    (along.sum::<f64>() / spread, spread)
}

/// Returns the chance that `own` lies as far above the mean of `rest`, or farther, where it is one of them.
///
/// ```text
/// t = (y − ȳ) / (s·√(1 + 1/n))        s² = squares / degrees of `scatter`
/// ```
/// * Shape: `n ≥ 1` logs; `scatter` is that of `rest`, with that of other series of the same spread where there are any.
/// * Units: none.
/// * Errors: [`StatError::Empty`]; [`StatError::TooFew`] where the scatter has no degrees of freedom.
/// * Source: the externally studentised residual; Cook and Weisberg (1982), *Residuals and Influence in Regression*, 2.2.
pub fn above_p(own: f64, rest: &[f64], scatter: Scatter) -> Result<f64, StatError> {
    let off = own - mean(rest)?;
    let variance = scatter.variance().ok_or(StatError::TooFew { needed: 2, found: rest.len() })?;
    p(off, variance * (1.0 + 1.0 / rest.len() as f64), scatter.degrees)
}

/// Returns the two-sided chance of a slope as steep as that of `logs`, or steeper, where there is none.
///
/// ```text
/// t = b·√(Σ (i − ī)²) / s        b: slope by least squares        s² = squares / degrees of `scatter`
/// ```
/// * Shape: `n ≥ 3` logs in order; `scatter` is theirs about their line, with that of other series where there are any.
/// * Units: none.
/// * Errors: [`StatError::TooFew`].
/// * Source: Draper and Smith (1998), *Applied Regression Analysis*, 1.4.
pub fn slope_p(logs: &[f64], scatter: Scatter) -> Result<f64, StatError> {
    let few = StatError::TooFew { needed: 3, found: logs.len() };
    if logs.len() < 3 {
        return Err(few);
    }
    let (slope, spread) = line(logs);
    let variance = scatter.variance().ok_or(few)?;
    Ok((2.0 * p(slope.abs(), variance / spread, scatter.degrees)?).min(1.0))
}

fn p(off: f64, variance: f64, degrees: f64) -> Result<f64, StatError> {
    match (off == 0.0, variance > 0.0) {
        (true, _) => Ok(0.5),
        (false, true) => t_upper_tail(off / variance.sqrt(), degrees),
        // What does not spread at all leaves no room for anything off it.
        (false, false) => Ok(if off > 0.0 { 0.0 } else { 1.0 }),
    }
}

/// Returns which of several tests may accuse, so that where all is well any of them does with the chance `rate` at most.
///
/// ```text
/// the k smallest, k = max{k : p(k) ≤ rate·k/m}
/// ```
/// Where much is wrong, at most the share `rate` of what is accused is wrongly so.
///
/// * Shape: the p of those that are small, of `made` tests in all; their places are returned.
/// * Source: Benjamini and Hochberg (1995), <https://doi.org/10.1111/j.2517-6161.1995.tb02031.x>; where nothing is wrong
///   the chance is that of Simes (1986), <https://doi.org/10.1093/biomet/73.3.751>.
/// * Units: none (probabilities).
pub fn accusing(p: &[f64], made: usize, rate: f64) -> Vec<usize> {
    let mut places: Vec<usize> = (0..p.len()).collect();
    places.sort_by(|a, b| p[*a].total_cmp(&p[*b]));
    let held = |k: usize| p[places[k]] <= rate * (k + 1) as f64 / made.max(p.len()) as f64;
    let last = (0..places.len()).rev().find(|k| held(*k));
    places.truncate(last.map_or(0, |k| k + 1));
    places.sort_unstable();
    places
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn scatter_is_about_the_mean_or_the_line() {
        // About the mean 2.5: 2.25 + 0.25 + 0.25 + 2.25; about the line nothing.
        let rising = [1.0, 2.0, 3.0, 4.0];
        assert_eq!(Scatter::about_mean(&rising), Scatter { squares: 5.0, degrees: 3.0 });
        assert_eq!(Scatter::about_line(&rising), Scatter { squares: 0.0, degrees: 2.0 });
        let both = Scatter::about_mean(&rising).plus(Scatter { squares: 1.0, degrees: 2.0 });
        assert_eq!(both.without(Scatter::about_mean(&rising)).squares, 1.0);
        assert_eq!(Scatter::about_line(&rising[..2]), Scatter::default());
    }

    #[test]
    fn a_value_off_the_rest_and_a_slope_have_their_t() {
        // rest 1, 2, 3: mean 2, s = 1; own 4: t = 2/√(4/3) = 1.732 with 2 degrees: p = 0.1127.
        let rest = [1.0, 2.0, 3.0];
        let found = above_p(4.0, &rest, Scatter::about_mean(&rest)).unwrap();
        assert!((found - 0.112_7).abs() < 1e-4, "{found}");
        // 1, 2, 4: b = 1.5, s² = 1/6, Σ(i − ī)² = 2: t = 1.5·√2/√(1/6) = 5.196 with 1 degree: p = 0.1210.
        let rise = [1.0, 2.0, 4.0];
        let found = slope_p(&rise, Scatter::about_line(&rise)).unwrap();
        assert!((found - 0.121_0).abs() < 1e-4, "{found}");
        assert!(slope_p(&rise[..2], Scatter::default()).is_err());
        assert_eq!(above_p(2.0, &rest, Scatter { squares: 0.0, degrees: 3.0 }), Ok(0.5));
    }

    #[test]
    fn the_more_tests_were_made_the_smaller_a_p_must_be() {
        assert_eq!(accusing(&[0.01], 5, 0.1), [0]);
        assert_eq!(accusing(&[0.03], 5, 0.1), [0; 0]);
        // 0.03 ≤ 0.1·2/5: the second lets the first in with it.
        assert_eq!(accusing(&[0.03, 0.03, 0.5], 5, 0.1), [0, 1]);
        assert_eq!(accusing(&[], 5, 0.1), [0; 0]);
    }
}
