//! A number that was found, as its reading takes it: in the declared unit, with the step it was written in.

use honest_lap_core::record::ReadingRule;
use honest_lap_core::unit::{parse_clock, parse_number, same_unit, seconds_in};

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
    if let Some(unit) = unit.filter(|unit| !same_unit(unit, declared)) {
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
