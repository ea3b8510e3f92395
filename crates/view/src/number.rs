//! How many digits a figure deserves, and in which unit it reads well.

use honest_lap_core::unit::Unit;

/// A unit of time for a whole table.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TimeUnit {
    /// Its symbol.
    pub symbol: &'static str,
    /// Seconds in one.
    nanos: u64,
}

/// The units that tables are set in, the longest first.
const SHOWN: [&str; 6] = ["h", "min", "s", "ms", "µs", "ns"];

impl TimeUnit {
    /// Returns the unit in which `seconds`, the smallest value of a table, reads well.
    ///
    /// Minutes begin at ten and hours at three: below that, testers think in the smaller unit.
    pub fn of(seconds: f64) -> Self {
        let least = |unit: &Self| match unit.symbol {
            "h" => 3.0 * 3_600.0,
            "min" => 600.0,
            _ => unit.nanos as f64 / 1e9,
        };
        let unit = |symbol| Unit::of(symbol).map(|unit| Self { symbol, nanos: unit.scale });
        let mut units = SHOWN.into_iter().filter_map(unit);
        // What is smaller than any unit is told in the smallest.
        let smallest = units.clone().next_back().unwrap_or(Self { symbol: "ns", nanos: 1 });
        units.find(|unit| seconds >= least(unit)).unwrap_or(smallest)
    }

    /// Returns `seconds` in this unit.
    pub fn value(self, seconds: f64) -> f64 {
        seconds * 1e9 / self.nanos as f64
    }
}

/// Returns how many digits behind the point a figure deserves whose uncertainty is `spread`.
///
/// The spread itself shows two figures where these are below 35, otherwise one, so that the last digit shown is one
/// that the laps speak about. No spread, or none that is finite, gives `None`: then [`significant`] decides.
///
/// * Source: Particle Data Group, Review of Particle Physics (2024), Introduction, section 5.3, on rounding.
pub fn decimals(spread: f64) -> Option<usize> {
    if !(spread.is_finite() && spread > 0.0) {
        return None;
    }
    let power = spread.log10().floor();
    let figures = if spread / 10f64.powf(power) < 3.55 { 2.0 } else { 1.0 };
    Some((figures - 1.0 - power).clamp(0.0, 9.0) as usize)
}

/// Returns `value` with `decimals` digits behind the point.
pub fn fixed(value: f64, decimals: usize) -> String {
    let text = format!("{value:.decimals$}");
    // A rounded-off negative is no negative zero.
    if text.trim_start_matches('-').chars().all(|c| c == '0' || c == '.') {
        text.trim_start_matches('-').to_owned()
    } else {
        text
    }
}

/// Returns `value` with `figures` significant figures, and never in scientific notation.
pub fn significant(value: f64, figures: usize) -> String {
    if value == 0.0 || !value.is_finite() {
        return fixed(value, 0);
    }
    let place = figures as f64 - 1.0 - value.abs().log10().floor();
    fixed(value, place.clamp(0.0, 12.0) as usize)
}

/// Returns a figure of what was sampled to three places: it is known no better.
pub fn sampled(value: f64) -> String {
    significant(value, 3)
}

/// Returns `share` in per cent to two figures where it is small: `0.48 %`, `4.1 %`, `12 %`.
pub fn percent(share: f64) -> String {
    let value = share * 100.0;
    let decimals = match value.abs() {
        v if v < 0.995 => 2,
        v if v < 9.95 => 1,
        _ => 0,
    };
    format!("{} %", fixed(value, decimals))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn digits_follow_the_spread() {
        let shown = |value, spread| fixed(value, decimals(spread).unwrap());
        assert_eq!(shown(5.61234, 0.0234), "5.612");
        assert_eq!(shown(5.61234, 0.234), "5.61");
        assert_eq!(shown(561.234, 23.4), "561");
        assert_eq!(shown(5.61234, 0.034), "5.612", "34 is below 35");
        assert_eq!(shown(5.61234, 0.036), "5.61", "36 is not");
        assert_eq!(decimals(0.0), None);
        assert_eq!(decimals(f64::INFINITY), None);
    }

    #[test]
    fn zero_has_no_sign_and_small_numbers_no_exponent() {
        assert_eq!(fixed(-0.001, 2), "0.00");
        assert_eq!(fixed(-0.01, 2), "-0.01");
        assert_eq!(significant(0.000_012_34, 3), "0.0000123");
        assert_eq!(significant(12_345.6, 3), "12346");
        assert_eq!(significant(0.0, 3), "0");
    }

    #[test]
    fn shares_read_well() {
        assert_eq!(
            [0.00478, 0.0411, 0.1234, -0.4].map(percent),
            ["0.48 %", "4.1 %", "12 %", "-40 %"]
        );
    }

    #[test]
    fn units_fit_the_smallest_value() {
        let units =
            [3e-9, 4e-6, 0.02, 0.9999, 1.0, 599.0, 601.0, 20_000.0].map(|s| TimeUnit::of(s).symbol);
        assert_eq!(units, ["ns", "µs", "ms", "ms", "s", "s", "min", "h"]);
        assert_eq!(TimeUnit::of(0.02).value(0.0215), 21.5);
        assert_eq!(TimeUnit::of(0.0).symbol, "ns");
    }
}
