//! Decimal numbers kept exact: digits and a scale, never a float on the way.

/// A non-negative decimal: `digits · 10^-scale`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Decimal {
    digits: u64,
    scale: u32,
}

impl Decimal {
    /// Reads `12`, `2.5` or `1_000`; a decimal comma, a sign or an exponent is not a number here.
    pub(super) fn parse(text: &str) -> Option<Self> {
        let (whole, fraction) = text.split_once('.').unwrap_or((text, ""));
        let well_formed = whole.starts_with(|c: char| c.is_ascii_digit())
            && whole.ends_with(|c: char| c.is_ascii_digit())
            && whole.chars().all(|c| c.is_ascii_digit() || c == '_')
            && fraction.chars().all(|c| c.is_ascii_digit())
            && !text.ends_with('.');
        if !well_formed {
            return None;
        }
        let digits: String = whole.chars().filter(|&c| c != '_').chain(fraction.chars()).collect();
        Some(Self { digits: digits.parse().ok()?, scale: u32::try_from(fraction.len()).ok()? })
    }

    /// Returns `self · unit` rounded to the nearest whole number, or `None` if it does not fit.
    pub(super) fn times(self, unit: u64) -> Option<u64> {
        let divisor = 10u128.checked_pow(self.scale)?;
        let product = u128::from(self.digits) * u128::from(unit);
        u64::try_from((product + divisor / 2) / divisor).ok()
    }

    /// Returns the nearest floating-point number.
    pub(super) fn as_f64(self) -> f64 {
        self.digits as f64 / 10f64.powi(self.scale as i32)
    }

    /// Returns whether the number has digits behind its point.
    pub(super) fn has_fraction(self) -> bool {
        self.scale > 0
    }
}

/// Splits `text` into a leading number and the rest, both trimmed.
pub(super) fn split_number(text: &str) -> (&str, &str) {
    let text = text.trim();
    let end =
        text.find(|c: char| !(c.is_ascii_digit() || c == '.' || c == '_')).unwrap_or(text.len());
    (text[..end].trim(), text[end..].trim())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_only_plain_decimals() {
        assert_eq!(Decimal::parse("2.50").and_then(|d| d.times(1000)), Some(2500));
        assert_eq!(Decimal::parse("1_450").map(Decimal::as_f64), Some(1450.0));
        for bad in
            ["", ".", "1.", ".5", "-1", "1e3", "1,5", "0x10", "1.2.3", "_1", "99999999999999999999"]
        {
            assert_eq!(Decimal::parse(bad), None, "{bad}");
        }
    }

    #[test]
    fn does_not_overflow() {
        assert_eq!(Decimal::parse("18446744073709551615").and_then(|d| d.times(2)), None);
        // 0.1 + 0.2 has no exact float; tenths of a second are exact nanoseconds here.
        assert_eq!(Decimal::parse("0.3").and_then(|d| d.times(1_000_000_000)), Some(300_000_000));
    }
}
