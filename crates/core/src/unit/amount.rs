//! A number with a unit of the user's own: `4.2 Mpixel` of work, `1450 EUR` of price.

use super::UnitError;
use super::decimal::{Decimal, split_number};
use serde::{Deserialize, Serialize};

/// A positive number and the unit it was written in, which is never converted.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Amount {
    /// How many of `unit`.
    pub value: f64,
    /// The unit as written, prefix and all.
    pub unit: String,
}

impl std::fmt::Display for Amount {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} {}", self.value, self.unit)
    }
}

/// Returns the amount that `text` states; both a positive number and a unit are needed.
///
/// * Errors: [`UnitError`] of anything else, with how it is written.
pub fn parse_amount(text: &str) -> Result<Amount, UnitError> {
    const REMEDY: &str =
        "write a number above 0 and its unit, such as \"4.2 Mpixel\" or \"1450 EUR\"";
    let (number, unit) = split_number(text);
    let value = Decimal::parse(number).map(Decimal::as_f64).filter(|&v| v > 0.0);
    match value {
        Some(value) if unit.starts_with(char::is_alphabetic) && unit.chars().count() <= 24 => {
            Ok(Amount { value, unit: unit.to_owned() })
        }
        _ => Err(UnitError::new(format!("`{text}` is not an amount with a unit"), REMEDY)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn keeps_the_unit_as_written() {
        assert_eq!(parse_amount("4.2 Mpixel"), Ok(Amount { value: 4.2, unit: "Mpixel".into() }));
        assert_eq!(parse_amount("250000stars").map(|a| a.to_string()), Ok("250000 stars".into()));
        for bad in ["4.2", "Mpixel", "0 Mpixel", "-1 EUR", "4 %"] {
            assert!(parse_amount(bad).is_err(), "{bad}");
        }
    }
}
