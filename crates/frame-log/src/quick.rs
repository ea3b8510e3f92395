//! The quick way through a plain row: eight bytes at a time, digits straight into integers. Whatever
//! is not plain is left to the thorough way.

use crate::number::Written;

/// A column to be picked from a row.
#[derive(Clone, Debug)]
struct Picked {
    /// Delimiters to pass since the column picked before it.
    skip: usize,
    /// Which of the values it is.
    nth: usize,
    /// What is taken off it.
    base: i64,
    /// By how many digits it has behind the point: what the digits are multiplied by.
    factors: [u64; 9],
}

/// A quick way through rows of one kind.
#[derive(Clone, Debug)]
pub(crate) struct Quick {
    delimiter: u8,
    point: u8,
    picked: Vec<Picked>,
}

impl Quick {
    /// Returns the quick way to the columns at `places`; the first has `base` taken off.
    pub(crate) fn new(delimiter: u8, places: &[(usize, Written)], base: i128) -> Option<Self> {
        let base = i64::try_from(base).ok()?;
        let mut order: Vec<usize> = (0..places.len()).collect();
        order.sort_by_key(|&nth| places[nth].0);
        let mut next = 0;
        let mut picked = Vec::new();
        for nth in order {
            let (place, written) = places[nth];
            let mut factors = [0; 9];
            let mut factor = Some(written.unit_ns);
            for slot in &mut factors {
                *slot = factor.unwrap_or(0);
                factor =
                    factor.filter(|factor| factor.is_multiple_of(10)).map(|factor| factor / 10);
            }
            // The same column for two purposes is read the thorough way.
            let skip = place.checked_sub(next)?;
            let base = if nth == 0 { base } else { 0 };
            picked.push(Picked { skip, nth, base, factors });
            next = place + 1;
        }
        let point = places.first()?.1.point;
        (point != delimiter && delimiter != b' ').then_some(Self { delimiter, point, picked })
    }

    /// Puts the values of the line that is the first `length` of `bytes` into `values`, and returns
    /// whether it is plain. What follows the line is only there to be loaded with it.
    #[inline]
    pub(crate) fn row(&self, bytes: &[u8], length: usize, values: &mut [i64; 3]) -> bool {
        if length == 0 || matches!(bytes[0], b'#' | b'/' | b'%') {
            return false;
        }
        let mut at = 0;
        for picked in &self.picked {
            for _ in 0..picked.skip {
                at = find(bytes, at, length, self.delimiter) + 1;
            }
            if at >= length {
                return false;
            }
            let end = find(bytes, at, length, self.delimiter);
            let Some((mantissa, decimals)) = self.mantissa(bytes, at, end) else { return false };
            let Some(ns) = mantissa.checked_mul(picked.factors[decimals]) else { return false };
            let Ok(ns) = i64::try_from(ns) else { return false };
            if ns == 0 && mantissa != 0 {
                // Finer than a nanosecond: there is no factor for it.
                return false;
            }
            values[picked.nth] = ns - picked.base;
            at = end + 1;
        }
        true
    }

    /// Returns the digits from `at` to `end` as a number, and how many of them stand behind the
    /// point; at most eight on either side of it.
    #[inline]
    fn mantissa(&self, bytes: &[u8], at: usize, end: usize) -> Option<(u64, usize)> {
        let point = find(bytes, at, end, self.point);
        let whole = digits(eight(bytes, at)?, point - at)?;
        if point == end {
            return Some((whole, 0));
        }
        let decimals = end - point - 1;
        let fraction = digits(eight(bytes, point + 1)?, decimals)?;
        Some((whole * TENS[decimals] + fraction, decimals))
    }
}

const TENS: [u64; 9] = [1, 10, 100, 1_000, 10_000, 100_000, 1_000_000, 10_000_000, 100_000_000];
const ONES: u64 = 0x0101_0101_0101_0101;

#[inline]
fn eight(bytes: &[u8], at: usize) -> Option<u64> {
    let word = bytes.get(at..at + 8)?;
    word.try_into().ok().map(u64::from_le_bytes)
}

/// Returns where `byte` stands from `at` on, or `end` if it is not there before.
///
/// Source: Warren, *Hacker's Delight*, 6-1, finding a zero byte in a word.
#[inline]
fn find(bytes: &[u8], mut at: usize, end: usize, byte: u8) -> usize {
    while at < end {
        let Some(word) = eight(bytes, at) else {
            let rest = bytes[at..end].iter().position(|&other| other == byte);
            return rest.map_or(end, |place| at + place);
        };
        let zero = word ^ (ONES * u64::from(byte));
        let found = zero.wrapping_sub(ONES) & !zero & (ONES * 0x80);
        if found != 0 {
            return (at + found.trailing_zeros() as usize / 8).min(end);
        }
        at += 8;
    }
    end
}

/// Returns the number that the first `length` bytes of `word` write in digits, one to eight.
#[inline]
fn digits(word: u64, length: usize) -> Option<u64> {
    const ZEROS: u64 = ONES * 0x30;
    const HIGH: u64 = ONES * 0xf0;
    let word = match length {
        1..8 => word << (64 - 8 * length) | ZEROS >> (8 * length),
        8 => word,
        _ => return None,
    };
    let is_digits = word & HIGH == ZEROS && word.wrapping_add(ONES * 0x06) & HIGH == ZEROS;
    // Pairs of digits, then of pairs, then of fours, all side by side.
    let pairs = ((word & (ONES * 0x0f)).wrapping_mul(2561)) >> 8;
    let fours = ((pairs & 0x00ff_00ff_00ff_00ff).wrapping_mul(6_553_601)) >> 16;
    let eights = ((fours & 0x0000_ffff_0000_ffff).wrapping_mul(42_949_672_960_001)) >> 32;
    is_digits.then_some(eights)
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: Written = Written { unit_ns: 1_000_000, point: b'.' };

    fn row(line: &str, places: &[usize]) -> Option<[i64; 3]> {
        let places: Vec<_> = places.iter().map(|&place| (place, MS)).collect();
        let mut values = [0; 3];
        let quick = Quick::new(b',', &places, 0).unwrap();
        let bytes = format!("{line}\n12345678");
        quick.row(bytes.as_bytes(), line.len(), &mut values).then_some(values)
    }

    #[test]
    fn plain_rows_are_read_and_others_left() {
        assert_eq!(row("1,16.667,8", &[1]), Some([16_667_000, 0, 0]));
        assert_eq!(row("16.6,x,8.25", &[2, 0]), Some([8_250_000, 16_600_000, 0]));
        assert_eq!(row("3", &[0]), Some([3_000_000, 0, 0]));
        for left in
            ["", "#1,2", "1", "1,", "1,-3", "1,nan", "1,\"3\"", "1, 3", "1,1.2.3", "1,16.6666666"]
        {
            assert_eq!(row(left, &[1]), None, "{left}");
        }
    }
}
