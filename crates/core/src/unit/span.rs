//! Spans of time: `10min`, `1h45m`, `5:41`, `0:52.4`, `250ms`.

use super::UnitError;
use super::decimal::{Decimal, split_number};
use super::spelling::{Dimension, Unit};
use crate::unit::Nanos;

const REMEDY: &str = "write a time with its unit, such as \"5s\", \"250ms\", \"10min\", \"1h45m\", \
                      or on a clock as minutes:seconds, \"5:41\"";

/// Returns the span that `text` states, exact to the nanosecond.
///
/// ```text
/// 10min   1h45m   1h 45min 2.5s   1h45 (= 1h45min)   250ms   5:41 (= 5 min 41 s)   1:02:03.5
/// ```
/// * Units: `ns`, `us`/`µs`, `ms`, `s`, `min`/`m`, `h`, `d`; larger before smaller, each once.
/// * Errors: no unit, an unknown unit, a clock part of 60 or more, or more than 584 years.
pub fn parse_span(text: &str) -> Result<Nanos, UnitError> {
    let text = text.trim();
    if text.contains(':') { parse_clock(text) } else { parse_units(text) }
}

fn bad(text: &str, why: &str) -> UnitError {
    UnitError::new(format!("`{text}` is not a span of time: {why}"), REMEDY)
}

fn parse_clock(text: &str) -> Result<Nanos, UnitError> {
    let parts: Vec<&str> = text.split(':').collect();
    if parts.len() > 3 {
        return Err(bad(text, "a clock time has at most hours:minutes:seconds"));
    }
    let mut total = 0u64;
    let mut unit = Nanos::PER_SECOND;
    for (place, part) in parts.iter().rev().enumerate() {
        let number = Decimal::parse(part)
            .filter(|n| place == 0 || !n.has_fraction())
            .ok_or_else(|| bad(text, "every part between colons must be a number"))?;
        let first = place + 1 == parts.len();
        if !first && (number.as_f64() >= 60.0 || part.split('.').next().map(str::len) != Some(2)) {
            return Err(bad(text, "minutes and seconds after a colon have two digits, below 60"));
        }
        total = number
            .times(unit)
            .and_then(|ns| total.checked_add(ns))
            .ok_or_else(|| bad(text, "it is too long to keep"))?;
        unit = unit.saturating_mul(60);
    }
    Ok(Nanos(total))
}

fn parse_units(text: &str) -> Result<Nanos, UnitError> {
    let mut rest = text;
    let mut total = 0u64;
    let mut last: Option<u64> = None;
    if rest.is_empty() {
        return Err(bad(text, "it is empty"));
    }
    while !rest.is_empty() {
        let (number, after) = split_number(rest);
        let value = Decimal::parse(number).ok_or_else(|| bad(text, "a number is missing"))?;
        let end =
            after.find(|c: char| c.is_ascii_digit() || c.is_whitespace()).unwrap_or(after.len());
        let (word, tail) = (&after[..end], after[end..].trim_start());
        let unit = match (word, last) {
            // `1h45` and `5m30`: a bare number takes the next smaller unit.
            ("", Some(above)) if tail.is_empty() && above >= 60 * Nanos::PER_SECOND => {
                if above > 3_600 * Nanos::PER_SECOND { above / 24 } else { above / 60 }
            }
            ("", _) => return Err(bad(text, "it has no unit")),
            (word, _) => {
                Unit::of_dimension(word, Dimension::Time)
                    .ok_or_else(|| bad(text, &format!("`{word}` is not a unit of time")))?
                    .scale
            }
        };
        if last.is_some_and(|above| unit >= above) {
            return Err(bad(text, "units go from large to small, each once"));
        }
        total = value
            .times(unit)
            .and_then(|ns| total.checked_add(ns))
            .ok_or_else(|| bad(text, "it is too long to keep"))?;
        last = Some(unit);
        rest = tail;
    }
    Ok(Nanos(total))
}

/// Returns `span` as a person would say it, to two or three figures: `5 s`, `1 min 40 s`.
pub fn display_span(span: Nanos) -> String {
    let ns = span.0;
    match ns {
        0 => "0 s".to_owned(),
        1..1_000 => format!("{ns} ns"),
        1_000..1_000_000 => format!("{} µs", short(ns as f64 / 1e3)),
        1_000_000..Nanos::PER_SECOND => format!("{} ms", short(ns as f64 / 1e6)),
        _ => {
            let seconds = (ns + Nanos::PER_SECOND / 2) / Nanos::PER_SECOND;
            match seconds {
                0..60 => format!("{} s", short(span.seconds())),
                60..3_600 => two(seconds / 60, "min", seconds % 60, "s"),
                3_600..86_400 => two(seconds / 3_600, "h", seconds % 3_600 / 60, "min"),
                _ => two(seconds / 86_400, "d", seconds % 86_400 / 3_600, "h"),
            }
        }
    }
}

fn short(value: f64) -> String {
    let text = if value < 10.0 { format!("{value:.1}") } else { format!("{value:.0}") };
    text.strip_suffix(".0").map_or(text.clone(), str::to_owned)
}

fn two(big: u64, big_unit: &str, small: u64, small_unit: &str) -> String {
    if small == 0 {
        format!("{big} {big_unit}")
    } else {
        format!("{big} {big_unit} {small} {small_unit}")
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn reads_what_testers_write() {
        let cases = [
            ("10min", 600_000_000_000),
            ("1h45m", 6_300_000_000_000),
            ("1h45", 6_300_000_000_000),
            ("3h 20min", 12_000_000_000_000),
            ("5m30", 330_000_000_000),
            ("5:41", 341_000_000_000),
            ("0:52.4", 52_400_000_000),
            ("1:02:03.5", 3_723_500_000_000),
            ("125:00", 7_500_000_000_000),
            ("2.5 s", 2_500_000_000),
            ("250ms", 250_000_000),
            ("80 µs", 80_000),
            ("7ns", 7),
            ("0s", 0),
            ("1d12", 129_600_000_000_000),
        ];
        for (text, ns) in cases {
            assert_eq!(parse_span(text), Ok(Nanos(ns)), "{text}");
        }
    }

    #[test]
    fn refuses_what_could_be_read_two_ways() {
        for text in [
            "",
            "5",
            "5 parsecs",
            "5:4",
            "5:60",
            "1:2:3:4",
            "5m1h",
            "5s5s",
            "-5s",
            "1,5s",
            "h",
            "5s30",
            "::",
            "1.5:20",
        ] {
            assert!(parse_span(text).is_err(), "{text}");
        }
    }

    #[test]
    fn says_spans_as_people_do() {
        let said = |ns| display_span(Nanos(ns));
        assert_eq!(said(0), "0 s");
        assert_eq!(said(1_840), "1.8 µs");
        assert_eq!(said(52_400_000_000), "52 s");
        assert_eq!(said(59_700_000_000), "1 min");
        assert_eq!(said(100_000_000_000), "1 min 40 s");
        assert_eq!(said(12_000_000_000_000), "3 h 20 min");
    }

    proptest! {
        #[test]
        fn never_panics(text in "\\PC{0,24}") {
            let _ = parse_span(&text);
        }

        #[test]
        fn reads_back_every_nanosecond(ns in any::<u64>()) {
            prop_assert_eq!(parse_span(&format!("{ns}ns")), Ok(Nanos(ns)));
            let seconds = format!("{}.{:09}s", ns / 1_000_000_000, ns % 1_000_000_000);
            prop_assert_eq!(parse_span(&seconds), Ok(Nanos(ns)));
        }
    }
}
