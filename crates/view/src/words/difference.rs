//! A difference in words: by how much, and on what grounds.

use super::common::measured;
use crate::number::{decimals, fixed, percent};
use honest_lap_core::judge::{Apart, Difference, Ground};
use honest_lap_core::record::Measure;

/// Returns a ratio of speed to the digits its interval supports: `1.67×`.
pub fn speed(difference: &Difference) -> Option<String> {
    let speed = difference.speed?;
    Some(format!("{}×", fixed(speed, speed_decimals(difference))))
}

/// Returns an interval as tables have it: `[1.62, 1.72]`.
pub fn interval_words(low: &str, high: &str) -> String {
    format!("[{low}, {high}]")
}

/// Returns the interval of a ratio of speed: `[1.62, 1.72]`.
pub fn speed_interval(difference: &Difference) -> Option<String> {
    let interval = difference.interval?;
    let digits = speed_decimals(difference);
    Some(interval_words(&fixed(interval.low, digits), &fixed(interval.high, digits)))
}

/// Returns how far two lie apart that have no ratio: `none against 150`, `12 more`.
pub fn apart_words(apart: &Apart, measure: &Measure) -> String {
    let unit = &measure.unit;
    let amount = |value: f64| measured(value, unit);
    match (apart.here == 0.0, apart.base == 0.0) {
        (true, true) => "none on either side".to_owned(),
        (true, false) => format!("none against {}", amount(apart.base)),
        (false, true) => format!("{} against none", amount(apart.here)),
        (false, false) => {
            let by = apart.here - apart.base;
            format!("{} {}", amount(by.abs()), if by > 0.0 { "more" } else { "less" })
        }
    }
}

/// Returns the interval of that difference, this one less the baseline: `[−160, −140]`.
pub fn apart_interval(apart: &Apart, measure: &Measure) -> Option<String> {
    let interval = apart.interval?;
    let spread = (interval.high - interval.low) / 2.0;
    let digits = decimals(spread).unwrap_or(2);
    let end = |value: f64| {
        let sign = if value < 0.0 { "−" } else { "+" };
        format!("{sign}{}", fixed(value.abs(), digits))
    };
    let unit = if measure.unit.is_empty() { String::new() } else { format!(" {}", measure.unit) };
    Some(format!("{}{unit}", interval_words(&end(interval.low), &end(interval.high))))
}

fn speed_decimals(difference: &Difference) -> usize {
    let spread = difference.interval.map(|interval| (interval.high - interval.low) / 2.0);
    spread.and_then(decimals).unwrap_or(2).clamp(1, 4)
}

/// Returns the time saved: `40 % less`, `25 % more`.
pub fn time_saved(difference: &Difference) -> Option<String> {
    let saved = difference.time_saved()?;
    let way = if saved >= 0.0 { "less" } else { "more" };
    Some(format!("{} {way}", percent(saved.abs())))
}

/// Returns what a verdict stands on, in a word or two; empty where nothing need be said.
pub fn ground(difference: &Difference) -> &'static str {
    match difference.ground {
        Ground::ThisSessionOnly => "1 session",
        Ground::AssumedSpread => "assumed",
        Ground::Sessions(2) => "2 sessions",
        Ground::Sessions(_) | Ground::Pairs(_) => "",
    }
}

/// Returns the ground's name for programs.
pub fn ground_name(difference: &Difference) -> &'static str {
    match difference.ground {
        Ground::Pairs(_) => "pairs",
        Ground::Sessions(_) => "sessions",
        Ground::ThisSessionOnly => "this-session-only",
        Ground::AssumedSpread => "assumed-spread",
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::judge::Verdict;
    use honest_lap_core::stat::Interval;

    fn difference(speed: f64, half: f64) -> Difference {
        Difference {
            apart: None,
            speed: Some(speed),
            interval: Some(Interval { low: speed - half, high: speed + half }),
            verdict: Verdict::Faster,
            ground: Ground::Pairs(6),
            needed: None,
            reading: 0.0,
            by_rate: false,
        }
    }

    #[test]
    fn a_ratio_shows_what_its_interval_supports() {
        let said = |d: &Difference| (speed(d).unwrap(), speed_interval(d).unwrap());
        assert_eq!(said(&difference(5.0 / 3.0, 0.05)), ("1.67×".into(), "[1.62, 1.72]".into()));
        assert_eq!(said(&difference(5.0 / 3.0, 0.5)), ("1.7×".into(), "[1.2, 2.2]".into()));
        assert_eq!(time_saved(&difference(5.0 / 3.0, 0.5)).unwrap(), "40 % less");
        assert_eq!(time_saved(&difference(0.8, 0.1)).unwrap(), "25 % more");
    }
}
