//! A number as it stands in a line, with the unit behind it.

use honest_lap_core::record::ReadingRule;
use honest_lap_core::unit::{Unit, parse_clock, parse_number, seconds_in};

/// A number that was read.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Read {
    pub(crate) value: f64,
    pub(crate) step: Option<f64>,
    pub(crate) seen: String,
}

/// Returns the number that `text` states for `rule`; `unit` is what was seen to be its unit.
pub(crate) fn read(text: &str, unit: Option<&str>, rule: &ReadingRule) -> Result<Read, String> {
    let declared = rule.unit.as_str();
    let text = text.trim();
    if let Some(unit) = unit.filter(|unit| *unit != declared) {
        let declared = if declared.is_empty() { "none" } else { declared };
        return Err(format!("`{text} {unit}` has the unit `{unit}`, and {declared} is declared"));
    }
    let scale = seconds_in(declared);
    let seen = text.to_owned();
    if text.contains(':') {
        if scale.is_none() {
            return Err(format!("`{text}` is a clock's time, and `{declared}` is no unit of time"));
        }
        let (span, step) = parse_clock(text).map_err(|err| err.problem)?;
        return Ok(Read { value: span.seconds(), step: Some(step.seconds()), seen });
    }
    let number = parse_number(text, rule.decimals).map_err(|err| err.problem)?;
    let scale = scale.unwrap_or(1.0);
    // A whole number of a score is a count, not something read to the nearest one.
    let step = (number.step < 1.0 || scale != 1.0 || seconds_in(declared).is_some())
        .then_some(number.step * scale);
    Ok(Read { value: number.value * scale, step, seen })
}

/// Returns the unit that follows a number in a line: the word that touches it, or the next word if
/// it is one that programs print.
pub(crate) fn unit_behind<'t>(rest: &'t str, declared: &str) -> Option<&'t str> {
    let word = |text: &'t str| {
        let end = text.find(|c: char| !(c.is_alphabetic() || c == '%')).unwrap_or(text.len());
        &text[..end]
    };
    let touching = word(rest);
    if !touching.is_empty() {
        let counts = Unit::of(touching).is_some() || !declared.is_empty();
        return counts.then_some(touching);
    }
    let next = word(rest.trim_start());
    let bounded = !rest.trim_start()[next.len()..].starts_with(|c: char| c.is_ascii_digit());
    (bounded && Unit::of(next).is_some()).then_some(next)
}

/// Splits `text` into the number at its beginning and what is behind it.
pub(crate) fn leading(text: &str) -> Option<(&str, &str)> {
    let part = |c: char| c.is_ascii_digit() || "+-.,:'\u{2212}\u{2019}\u{a0}\u{202f}_".contains(c);
    let end = text.find(|c: char| !part(c)).unwrap_or(text.len());
    let number = text[..end].trim_end_matches(['.', ',', ':', '\'', '-']);
    number.contains(|c: char| c.is_ascii_digit()).then(|| (number, &text[number.len()..]))
}
