//! Temperatures: `60 °C`, `60C`, `21.5 °C`, `140 °F`.

use super::UnitError;
use super::decimal::{Decimal, split_number};

/// Returns the temperature that `text` states, in °C.
///
/// * Errors: [`UnitError`] of anything else, with how it is written.
pub fn parse_celsius(text: &str) -> Result<f64, UnitError> {
    let (number, unit) = split_number(text);
    let value = Decimal::parse(number).map(Decimal::as_f64);
    match (value, unit) {
        (Some(value), "°C" | "C") => Ok(value),
        (Some(value), "°F" | "F") => Ok((value - 32.0) / 1.8),
        _ => Err(UnitError::new(
            format!("`{text}` is not a temperature"),
            "write it with its unit, such as \"60 °C\" or \"60 C\"",
        )),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn needs_its_unit() {
        assert_eq!(parse_celsius("60 °C"), Ok(60.0));
        assert_eq!(parse_celsius("21.5C"), Ok(21.5));
        assert_eq!(parse_celsius("140 F").map(f64::round), Ok(60.0));
        for bad in ["60", "C", "60 K", "-3 C", ""] {
            assert!(parse_celsius(bad).is_err(), "{bad}");
        }
    }
}
