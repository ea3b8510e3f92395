//! Numbers of a log, exact to the nanosecond: digits straight into integers, no float on the way.

/// A cell's value in nanoseconds, or why it has none.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Cell {
    /// A number.
    Ns(i128),
    /// Nothing.
    Missing,
    /// Something that is no number, or none that a time could be.
    NotANumber,
}

/// How the numbers of a column are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Written {
    /// The unit, in nanoseconds.
    pub(crate) unit_ns: u64,
    /// What stands before the decimals.
    pub(crate) point: u8,
}

const POWERS: [u64; 20] = {
    let mut powers = [1; 20];
    let mut i = 1;
    while i < 20 {
        powers[i] = powers[i - 1] * 10;
        i += 1;
    }
    powers
};

/// Returns the value of `cell`, rounded to the nearest nanosecond.
pub(crate) fn cell(cell: &[u8], written: Written) -> Cell {
    let cell = trimmed(cell);
    let (negative, digits) = match cell {
        [] => return Cell::Missing,
        [b'-', rest @ ..] => (true, rest),
        [b'+', rest @ ..] => (false, rest),
        plain => (false, plain),
    };
    // Nineteen digits fit; a decimal point among them makes twenty bytes.
    if digits.len() > 20 {
        return long(digits, negative, written);
    }
    let (mut mantissa, mut decimals, mut seen) = (0_u64, None, 0_u32);
    for &byte in digits {
        let digit = byte.wrapping_sub(b'0');
        if digit < 10 {
            if seen == 19 {
                return long(digits, negative, written);
            }
            mantissa = mantissa * 10 + u64::from(digit);
            seen += 1;
        } else if byte == written.point && decimals.is_none() {
            decimals = Some(seen);
        } else {
            return long(digits, negative, written);
        }
    }
    if seen == 0 {
        return Cell::NotANumber;
    }
    let decimals = decimals.map_or(0, |at| (seen - at) as usize);
    signed(scaled(u128::from(mantissa), decimals, written.unit_ns), negative)
}

fn scaled(mantissa: u128, decimals: usize, unit_ns: u64) -> i128 {
    let (whole, divisor) = (mantissa * u128::from(unit_ns), POWERS[decimals]);
    let ns = match u64::try_from(whole) {
        // One division of 64 bits, nearly always.
        Ok(whole) => {
            let up = whole % divisor >= divisor.div_ceil(2) && divisor > 1;
            u128::from(whole / divisor) + u128::from(up)
        }
        Err(_) => (whole + u128::from(divisor) / 2) / u128::from(divisor),
    };
    i128::try_from(ns).unwrap_or(i128::MAX)
}

fn signed(ns: i128, negative: bool) -> Cell {
    Cell::Ns(if negative { -ns } else { ns })
}

/// What the quick way leaves: powers of ten, more digits than fit, groups of thousands, words.
fn long(digits: &[u8], negative: bool, written: Written) -> Cell {
    let Ok(text) = std::str::from_utf8(digits) else { return Cell::NotANumber };
    let (mantissa, power) = match text.split_once(['e', 'E']) {
        Some((mantissa, power)) => match power.parse::<i32>() {
            Ok(power) if power.abs() <= 40 => (mantissa, power),
            _ => return Cell::NotANumber,
        },
        None => (text, 0),
    };
    let (whole, fraction) =
        mantissa.split_once(char::from(written.point)).unwrap_or((mantissa, ""));
    let Some(whole) = without_groups(whole, written.point) else { return Cell::NotANumber };
    let plain = |part: &str| part.bytes().all(|byte| byte.is_ascii_digit());
    if !plain(&whole) || !plain(fraction) || whole.len() + fraction.len() == 0 {
        return Cell::NotANumber;
    }
    // Digits behind the nineteenth are less than any clock can tell.
    let all: String = whole.chars().chain(fraction.chars()).collect();
    let all = all.trim_start_matches('0');
    let kept = &all[..all.len().min(19)];
    let dropped = (all.len() - kept.len()) as i32;
    let mantissa: u128 = kept.parse().unwrap_or(0);
    let shift = power - fraction.len() as i32 + dropped;
    match shift {
        0..=18 => match mantissa.checked_mul(u128::from(POWERS[shift as usize])) {
            Some(mantissa) => signed(scaled(mantissa.min(1 << 90), 0, written.unit_ns), negative),
            None => Cell::NotANumber,
        },
        -19..=-1 => signed(scaled(mantissa, -shift as usize, written.unit_ns), negative),
        19.. if mantissa > 0 => Cell::NotANumber,
        _ => Cell::Ns(0),
    }
}

/// Returns digits whose thousands are grouped by a comma, point, blank or apostrophe without them.
fn without_groups(whole: &str, point: u8) -> Option<String> {
    let group = if point == b',' { '.' } else { ',' };
    let is_group = |c: char| c == group || matches!(c, ' ' | '\'' | '\u{a0}' | '\u{202f}');
    if !whole.contains(is_group) {
        return Some(whole.to_owned());
    }
    let parts: Vec<&str> = whole.split(is_group).collect();
    let lengths = parts.iter().skip(1).all(|part| part.len() == 3);
    let begins = (1..=3).contains(&parts[0].len()) && !parts[0].starts_with('0');
    (lengths && begins).then(|| parts.concat())
}

/// Returns `cell` without the blanks and quotes around it.
pub(crate) fn trimmed(cell: &[u8]) -> &[u8] {
    // Nearly every cell is as short as it can be.
    match cell {
        [first, .., last] if first.is_ascii_alphanumeric() && last.is_ascii_alphanumeric() => cell,
        _ => {
            let cell = cell.trim_ascii();
            match cell {
                [b'"', inner @ .., b'"'] => inner.trim_ascii(),
                _ => cell,
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: Written = Written { unit_ns: 1_000_000, point: b'.' };
    const S: Written = Written { unit_ns: 1_000_000_000, point: b'.' };

    fn ns(text: &str, written: Written) -> Option<i128> {
        match cell(text.as_bytes(), written) {
            Cell::Ns(ns) => Some(ns),
            _ => None,
        }
    }

    #[test]
    fn decimals_are_exact_and_round_to_the_nearest_nanosecond() {
        assert_eq!(ns("16.667", MS), Some(16_667_000));
        assert_eq!(ns("0.016666667", S), Some(16_666_667));
        assert_eq!(ns("16.6666666", MS), Some(16_666_667));
        assert_eq!(ns("0.0000004", MS), Some(0));
        assert_eq!(ns("0.0000005", MS), Some(1));
        assert_eq!(ns(" 12 ", MS), Some(12_000_000));
        assert_eq!(ns("\"12.5\"", MS), Some(12_500_000));
        assert_eq!(ns("-3.2", MS), Some(-3_200_000));
        assert_eq!(ns(".5", MS), Some(500_000));
        assert_eq!(ns("5.", MS), Some(5_000_000));
    }

    #[test]
    fn moments_keep_all_their_digits() {
        // Seconds since 1970 with nanoseconds: more than a float holds.
        assert_eq!(ns("1763900000.123456789", S), Some(1_763_900_000_123_456_789));
        let ns_unit = Written { unit_ns: 1, point: b'.' };
        assert_eq!(ns("18446744073709551615", ns_unit), Some(1_844_674_407_370_955_161 * 10));
        assert_eq!(ns("9223372036854775807", ns_unit), Some(9_223_372_036_854_775_807));
    }

    #[test]
    fn powers_groups_and_commas_are_read() {
        assert_eq!(ns("1.6667e1", MS), Some(16_667_000));
        assert_eq!(ns("1.6667E-2", S), Some(16_667_000));
        assert_eq!(ns("1,234.5", MS), Some(1_234_500_000));
        let comma = Written { point: b',', ..MS };
        assert_eq!(
            (ns("16,7", comma), ns("1.234,5", comma)),
            (Some(16_700_000), Some(1_234_500_000))
        );
        assert_eq!(ns("16.66666666666666666666666667", MS), Some(16_666_667));
    }

    #[test]
    fn what_is_no_number_is_none() {
        for bad in [
            "nan", "NaN", "inf", "-inf", "12ms", "1.2.3", "--1", "1,23", "e5", ".", "-", "0x10",
            "1e99", "0,500",
        ] {
            assert_eq!(cell(bad.as_bytes(), MS), Cell::NotANumber, "{bad}");
        }
        assert_eq!(
            (cell(b"", MS), cell(b"  ", MS), cell(b"\"\"", MS)),
            (Cell::Missing, Cell::Missing, Cell::Missing)
        );
        assert_eq!(cell(&[0xff, 0xfe], MS), Cell::NotANumber);
    }
}
