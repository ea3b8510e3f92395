//! Shares in per cent: `2%`, `0.5 %`.

use super::UnitError;
use super::decimal::{Decimal, split_number};

/// Returns the share that `text` states in per cent, as a fraction: `2%` is 0.02.
///
/// * Errors: [`UnitError`] of anything else, with how it is written.
pub fn parse_share(text: &str) -> Result<f64, UnitError> {
    let (number, unit) = split_number(text);
    match Decimal::parse(number) {
        Some(value) if unit == "%" => Ok(value.as_f64() / 100.0),
        _ => Err(UnitError::new(
            format!("`{text}` is not a share in per cent"),
            "write it with its sign, such as \"2%\"",
        )),
    }
}

/// Returns `share` in per cent with no more digits than it needs: `2 %`, `2.5 %`.
pub fn display_share(share: f64) -> String {
    let text = format!("{:.2}", share * 100.0);
    format!("{} %", text.trim_end_matches('0').trim_end_matches('.'))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn needs_its_sign() {
        assert_eq!(parse_share("2%"), Ok(0.02));
        assert_eq!(parse_share("0.5 %"), Ok(0.005));
        assert_eq!([0.02, 0.025, 0.1].map(display_share), ["2 %", "2.5 %", "10 %"]);
        for bad in ["2", "2 percent", "%", "-2%"] {
            assert!(parse_share(bad).is_err(), "{bad}");
        }
    }
}
