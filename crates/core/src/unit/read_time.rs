//! Times as people read them off a screen, with the step in which they did.

use super::{UnitError, parse_span};
use crate::unit::Nanos;

/// Returns the time that `text` states, and the step in which it was read: what its last digit
/// stands for.
///
/// ```text
/// 5:41 → 1 s   0:52.4 → 0.1 s   3h20m → 1 min   341.25 s → 0.01 s   0:52,4 as 0:52.4
/// ```
/// * Errors: as [`parse_span`]; a bare number has no unit and is none.
pub fn read_time(text: &str) -> Result<(Nanos, Nanos), UnitError> {
    // Between digits a comma can only stand before decimals: spans have no thousands.
    let text = text.trim().replace(',', ".");
    let span = parse_span(&text)?;
    let last = text.rfind(|c: char| c.is_ascii_digit());
    let next = last.and_then(|at| {
        let digit = text[at..].chars().next()?;
        // Another last digit, and never one that carries: 59 becomes 58, and 50 becomes 51.
        let other = if digit == '9' { '8' } else { char::from(u8::try_from(digit).ok()? + 1) };
        let changed = format!("{}{other}{}", &text[..at], &text[at + 1..]);
        parse_span(&changed).ok()
    });
    let step = next.map(|next| Nanos(next.0.abs_diff(span.0)));
    Ok((span, step.unwrap_or(Nanos::from_seconds(1))))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn the_last_digit_says_how_well_it_is_known() {
        for (text, ms, step_ms) in [
            ("5:41", 341_000, 1_000),
            ("0:52.4", 52_400, 100),
            ("0:52,4", 52_400, 100),
            ("0:59", 59_000, 1_000),
            ("1:02:03.50", 3_723_500, 10),
            ("3h20m", 12_000_000, 60_000),
            ("3h20", 12_000_000, 60_000),
            ("341.25 s", 341_250, 10),
            ("250ms", 250, 1),
            ("2 h", 7_200_000, 3_600_000),
        ] {
            let read = read_time(text).unwrap();
            assert_eq!(read, (Nanos(ms * 1_000_000), Nanos(step_ms * 1_000_000)), "{text}");
        }
        for text in ["52", "", "fast", "5:75"] {
            assert!(read_time(text).is_err(), "{text}");
        }
    }

    proptest! {
        #[test]
        fn never_panics_and_never_knows_better_than_was_read(text in "[0-9:hms., ]{0,12}") {
            if let Ok((_, step)) = read_time(&text) {
                prop_assert!(step > Nanos(0), "{}", text);
            }
        }
    }
}
