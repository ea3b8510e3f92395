//! How many laps a wanted precision takes.

use super::{StatError, chi_squared_quantile, normal_quantile, t_quantile};
use serde::Serialize;

/// The number of laps on each side, as a range.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct LapsNeeded {
    /// Enough if the spread is what it has been so far.
    pub plain: u32,
    /// Enough in four of five cases, since a spread from few laps is itself uncertain.
    pub assured: u32,
}

/// Beyond this many laps a side, more laps are not a practical answer.
const MOST_LAPS: u32 = 10_000;

/// The share of cases in which the assured number is enough.
const ASSURANCE: f64 = 0.8;

/// Returns the smallest number of laps a side at which a comparison is as sharp as wanted.
///
/// ```text
/// smallest n ≥ 2 with t(0.975; 2n − 2) · s · √(2/n) ≤ ln(1 + target)
/// assured: s replaced by s·√(df / χ²(0.2; df)), its 80 % upper bound
/// ```
/// * Units: none; `sd_log` is the standard deviation of one lap's log, with `df` degrees of
///   freedom; `target` is the wanted half-width as a fraction (0.02 for 2 %).
/// * Errors: [`StatError::OutOfRange`] for a parameter outside its range, or where even 10,000
///   laps would not do.
/// * Source: Browne (1995), <https://doi.org/10.1002/sim.4780141709>, for the bound on s.
pub fn laps_needed(sd_log: f64, df: f64, target: f64) -> Result<LapsNeeded, StatError> {
    if !(target > 0.0 && target.is_finite()) {
        return Err(StatError::OutOfRange { name: "target", value: target });
    }
    if !(sd_log >= 0.0 && sd_log.is_finite()) {
        return Err(StatError::OutOfRange { name: "sd_log", value: sd_log });
    }
    let upper = sd_log * (df / chi_squared_quantile(1.0 - ASSURANCE, df)?).sqrt();
    let half_width = target.ln_1p();
    Ok(LapsNeeded { plain: smallest(sd_log, half_width)?, assured: smallest(upper, half_width)? })
}

fn smallest(sd: f64, half_width: f64) -> Result<u32, StatError> {
    let enough = |n: u32| -> Result<bool, StatError> {
        let n = f64::from(n);
        Ok(t_quantile(0.975, 2.0 * n - 2.0)? * sd * (2.0 / n).sqrt() <= half_width)
    };
    // t lies above the normal quantile, so fewer than the normal asks for are never enough; and t
    // falls towards it so fast that the first that are lie a few steps on.
    let normal = 2.0 * (normal_quantile(0.975)? * sd / half_width).powi(2);
    if normal > f64::from(MOST_LAPS) {
        return Err(StatError::OutOfRange { name: "sd_log", value: sd });
    }
    let least = (normal.ceil() as u32).max(2);
    for n in least..=MOST_LAPS {
        if enough(n)? {
            return Ok(n);
        }
    }
    Err(StatError::OutOfRange { name: "sd_log", value: sd })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_spread_needs_two_laps() {
        assert_eq!(laps_needed(0.0, 4.0, 0.02), Ok(LapsNeeded { plain: 2, assured: 2 }));
    }

    #[test]
    fn the_first_that_is_enough_is_found_wherever_it_lies() {
        for sd in [0.003, 0.01, 0.02, 0.05, 0.2] {
            let enough = |n: &u32| {
                let n = f64::from(*n);
                t_quantile(0.975, 2.0 * n - 2.0).unwrap() * sd * (2.0 / n).sqrt() <= 0.02f64.ln_1p()
            };
            let counted = (2..=2_000).find(enough).unwrap();
            assert_eq!(laps_needed(sd, 4.0, 0.02).unwrap().plain, counted, "{sd}");
        }
    }

    #[test]
    fn a_wild_spread_is_refused_rather_than_answered_with_a_million() {
        assert!(laps_needed(3.0, 4.0, 0.001).is_err());
        assert!(laps_needed(0.01, 4.0, 0.0).is_err());
        assert!(laps_needed(f64::NAN, 4.0, 0.02).is_err());
    }
}
