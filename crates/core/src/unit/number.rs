//! Numbers as programs print them and people read them off: `1,234.5`, `1 234,5`, `00:01:23.45`.

use super::UnitError;
use crate::unit::Nanos;

/// How decimals are told from thousands.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Decimals {
    /// By what the number itself shows; one that could be read two ways is refused.
    #[default]
    Shown,
    /// A point stands before the decimals.
    Point,
    /// A comma stands before the decimals.
    Comma,
}

/// A number, and the step in which it was written: `52.4` is written in tenths.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ReadNumber {
    /// The number.
    pub value: f64,
    /// One of its last digit.
    pub step: f64,
}

const REMEDY: &str = "write it with decimals only, or say which sign stands before the decimals: \
                      decimal = \".\" or decimal = \",\"";

fn bad(text: &str, why: &str) -> UnitError {
    UnitError::new(format!("`{text}` is not a number: {why}"), REMEDY)
}

/// Returns the number that `text` states, which may group thousands and have a sign.
///
/// ```text
/// 812   812.5   1,234,567   1 234,5   1'234.5   −3.2   1.5e3
/// ```
/// * Errors: no number, a group of other than three digits, or (with [`Decimals::Shown`]) one sign
///   that could be either, as in `1,234`.
pub fn parse_number(text: &str, decimals: Decimals) -> Result<ReadNumber, UnitError> {
    let trimmed = text.trim();
    let (negative, unsigned) = match trimmed.strip_prefix(['-', '\u{2212}']) {
        Some(rest) => (true, rest),
        None => (false, trimmed.strip_prefix('+').unwrap_or(trimmed)),
    };
    let (mantissa, exponent) = match unsigned.split_once(['e', 'E']) {
        Some((mantissa, exponent)) => {
            let exponent: i32 = exponent.parse().map_err(|_| bad(text, "its power is none"))?;
            (mantissa, exponent)
        }
        None => (unsigned, 0),
    };
    let (whole, fraction) = split_decimals(mantissa, decimals).map_err(|why| bad(text, why))?;
    let places = i32::try_from(fraction.len()).map_err(|_| bad(text, "it is too long"))?;
    let canonical = format!("{whole}.{fraction}e{exponent}");
    let value: f64 = canonical.parse().map_err(|_| bad(text, "it is too long"))?;
    let step: f64 = format!("1e{}", exponent.saturating_sub(places)).parse().unwrap_or(0.0);
    if !value.is_finite() {
        return Err(bad(text, "it is too large to keep"));
    }
    // Nothing is nothing, whatever stands before it.
    let value = if negative && value != 0.0 { -value } else { value };
    Ok(ReadNumber { value, step })
}

/// Returns the digits before and behind the decimal sign, without the signs between thousands.
fn split_decimals(text: &str, decimals: Decimals) -> Result<(String, String), &'static str> {
    let group_signs = [' ', '\u{a0}', '\u{202f}', '\'', '\u{2019}', '_'];
    if !text.chars().all(|c| c.is_ascii_digit() || ".,".contains(c) || group_signs.contains(&c)) {
        return Err("it holds something else than digits");
    }
    let last_sign = text.rfind(['.', ',']);
    let sign = match (decimals, last_sign) {
        (Decimals::Point, _) => Some('.'),
        (Decimals::Comma, _) => Some(','),
        (Decimals::Shown, None) => None,
        (Decimals::Shown, Some(at)) => shown_sign(text, at)?,
    };
    let (whole, fraction) = match sign.and_then(|sign| text.split_once(sign)) {
        Some((whole, fraction)) => (whole, fraction),
        None => (text, ""),
    };
    if !fraction.chars().all(|c| c.is_ascii_digit()) {
        return Err("its decimals hold something else than digits");
    }
    if fraction.is_empty() && sign.is_some_and(|sign| text.ends_with(sign)) {
        return Err("it ends with its decimal sign");
    }
    Ok((grouped(whole)?, fraction.to_owned()))
}

/// Returns the sign that stands before the decimals of `text`, whose last `.` or `,` is at `at`.
fn shown_sign(text: &str, at: usize) -> Result<Option<char>, &'static str> {
    let sign = if text[at..].starts_with('.') { '.' } else { ',' };
    let other = if sign == '.' { ',' } else { '.' };
    let (before, behind) = (&text[..at], &text[at + 1..]);
    let once = !before.contains(sign);
    match (once, before.contains(other), behind.len()) {
        // 1,234.5: the other sign came first, so this one ends the thousands.
        (true, true, _) => Ok(Some(sign)),
        // 1,234,567: decimals come once, so these are thousands.
        (false, ..) => Ok(None),
        // 1,234 could be either; 0,234 and 1234,567 could not. A point is a decimal point.
        (true, false, 3) if sign == ',' && could_group(before) => {
            Err("it could have decimals or thousands there")
        }
        (true, false, 3) if sign == '.' && could_group(before) => Ok(Some('.')),
        (true, false, _) => Ok(Some(sign)),
    }
}

fn could_group(before: &str) -> bool {
    (1..=3).contains(&before.len()) && before != "0"
}

/// Returns the digits of a whole part whose thousands may be told apart by one kind of sign.
fn grouped(whole: &str) -> Result<String, &'static str> {
    let Some(sign) = whole.chars().find(|c| !c.is_ascii_digit()) else {
        return if whole.is_empty() {
            Err("it begins with its decimals")
        } else {
            Ok(whole.to_owned())
        };
    };
    let groups: Vec<&str> = whole.split(sign).collect();
    let right = groups.iter().skip(1).all(|group| group.len() == 3)
        && (1..=3).contains(&groups[0].len())
        && groups.iter().all(|group| group.chars().all(|c| c.is_ascii_digit()));
    if right { Ok(groups.concat()) } else { Err("its thousands are not groups of three") }
}

/// Returns the time that `text` states on a clock, with the step it was read in.
///
/// ```text
/// 5:41   0:52.4   00:01:23.45   00:01:23,45
/// ```
/// * Errors: a part of 60 or more behind a colon, more than three parts.
pub fn parse_clock(text: &str) -> Result<(Nanos, Nanos), UnitError> {
    let trimmed = text.trim().replace(',', ".");
    let span = super::parse_span(&trimmed)?;
    let places = trimmed.rsplit_once('.').map_or(0, |(_, digits)| digits.len());
    let places = u32::try_from(places).unwrap_or(u32::MAX).min(9);
    Ok((span, Nanos(10u64.pow(9 - places))))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn read(text: &str) -> Option<(f64, f64)> {
        parse_number(text, Decimals::Shown).ok().map(|n| (n.value, n.step))
    }

    #[test]
    fn reads_what_programs_print() {
        let cases = [
            ("812", 812.0, 1.0),
            ("812.50", 812.5, 0.01),
            ("1,234,567", 1_234_567.0, 1.0),
            ("1,234.5", 1_234.5, 0.1),
            ("1.234,5", 1_234.5, 0.1),
            ("1 234,5", 1_234.5, 0.1),
            ("1'234.5", 1_234.5, 0.1),
            ("12\u{202f}345", 12_345.0, 1.0),
            ("0,234", 0.234, 0.001),
            ("1234,567", 1_234.567, 0.001),
            ("1.234", 1.234, 0.001),
            ("-3.2", -3.2, 0.1),
            ("\u{2212}3", -3.0, 1.0),
            ("1.5e3", 1_500.0, 100.0),
        ];
        for (text, value, step) in cases {
            let (found, found_step) = read(text).unwrap_or_else(|| panic!("{text}"));
            assert_eq!(found, value, "{text}");
            assert!((found_step / step - 1.0).abs() < 1e-12, "{text}: step {found_step}");
        }
    }

    #[test]
    fn refuses_what_could_be_read_two_ways_until_it_is_told() {
        for text in
            ["1,234", "", "-", "1,23,456", "12,34.5", "1.2.3,4", "..", "1,", "1e", "x1", "1e999"]
        {
            assert_eq!(read(text), None, "{text}");
        }
        let told = |decimals| parse_number("1,234", decimals).map(|n| n.value);
        assert_eq!(told(Decimals::Comma), Ok(1.234));
        assert_eq!(told(Decimals::Point), Ok(1_234.0));
    }

    #[test]
    fn a_clock_says_in_which_step_it_was_read() {
        let read = |text| parse_clock(text).ok().map(|(span, step)| (span.0, step.0));
        assert_eq!(read("0:52"), Some((52_000_000_000, 1_000_000_000)));
        assert_eq!(read("00:01:23.45"), Some((83_450_000_000, 10_000_000)));
        assert_eq!(read("5:41,5"), Some((341_500_000_000, 100_000_000)));
        assert_eq!(read("1:75"), None);
    }

    proptest! {
        #[test]
        fn never_panics(text in "\\PC{0,24}") {
            for decimals in [Decimals::Shown, Decimals::Point, Decimals::Comma] {
                let _ = parse_number(&text, decimals);
            }
            let _ = parse_clock(&text);
        }

        #[test]
        fn a_printed_number_is_read_back(whole in 0u32..10_000_000, cents in 0u32..100) {
            let value = f64::from(whole) + f64::from(cents) / 100.0;
            let grouped = |sign: char| {
                let digits = whole.to_string();
                let mut text = String::new();
                for (place, digit) in digits.chars().enumerate() {
                    if place > 0 && (digits.len() - place) % 3 == 0 {
                        text.push(sign);
                    }
                    text.push(digit);
                }
                text
            };
            for (group, point) in [(',', '.'), ('.', ','), (' ', ','), ('\'', '.')] {
                let text = format!("{}{point}{cents:02}", grouped(group));
                let read = parse_number(&text, Decimals::Shown).unwrap();
                prop_assert!((read.value - value).abs() <= 1e-9 * value.max(1.0), "{}", text);
            }
        }
    }
}
