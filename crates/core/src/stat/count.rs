//! Counts of events: whether two of them come from equal rates.

use super::StatError;
use statrs::distribution::{Binomial, DiscreteCDF};

/// Returns the two-sided p of 'events come at the same rate in both'.
///
/// ```text
/// given a + b, a ~ Binomial(a + b, n / (n + m))        p = min(1, 2·min(P(X ≤ a), P(X ≥ a)))
/// ```
/// * Shape: `a` events in `n` laps, `b` in `m`; 1 where there is no event at all. O(log(a + b)).
/// * Errors: [`StatError::OutOfRange`] where one side has no laps.
/// * Source: Przyborowski and Wilenski (1940), <https://doi.org/10.1093/biomet/31.3-4.313>: exact for Poisson counts.
/// * Units: none (counts).
pub fn equal_rates_p((a, n): (u64, usize), (b, m): (u64, usize)) -> Result<f64, StatError> {
    if n == 0 || m == 0 {
        return Err(StatError::OutOfRange { name: "laps", value: 0.0 });
    }
    if a + b == 0 {
        return Ok(1.0);
    }
    let share = n as f64 / (n + m) as f64;
    let events = Binomial::new(share, a + b)
        .map_err(|_| StatError::OutOfRange { name: "share", value: share })?;
    let (at_most, above) = (events.cdf(a), if a == 0 { 1.0 } else { events.sf(a - 1) });
    Ok((2.0 * at_most.min(above)).min(1.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn none_against_twelve_is_told_and_none_against_three_is_not() {
        // 2·(1/2)^12 and 2·(1/2)^3.
        let p = |b| equal_rates_p((0, 3), (b, 3)).unwrap();
        assert!((p(12) - 2.0 * 0.5f64.powi(12)).abs() < 1e-12);
        assert!((p(3) - 0.25).abs() < 1e-12);
        assert_eq!(equal_rates_p((0, 3), (0, 5)), Ok(1.0));
    }

    #[test]
    fn twice_the_laps_make_twice_the_events_no_difference() {
        assert!(equal_rates_p((10, 3), (20, 6)).unwrap() > 0.9);
        // P(X ≤ 5) of 35 at a third: 0.009891, twice.
        let p = equal_rates_p((5, 3), (30, 6)).unwrap();
        assert!((p - 0.019_782_337).abs() < 1e-8, "{p}");
        assert!(equal_rates_p((1, 0), (1, 1)).is_err());
    }
}
