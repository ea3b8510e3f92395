//! The quick way through plain rows: where cells end is found for a whole row at once, and digits go
//! straight into integers. Whatever is not plain is left to the thorough way.
//!
//! Source of the ways with words: Warren, *Hacker's Delight*, 2-1; the digits in pairs after
//! Lemire (2018), *Quickly parsing eight digits*.

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
    /// Columns behind the last one that is picked.
    behind: usize,
    picked: Vec<Picked>,
}

impl Quick {
    /// Returns the quick way to the columns at `places`; the first has `base` taken off.
    pub(crate) fn new(
        (delimiter, width): (u8, usize),
        places: &[(usize, Written)],
        base: i128,
    ) -> Option<Self> {
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
        let behind = width.checked_sub(next)?;
        (point != delimiter && delimiter != b' ').then_some(Self {
            delimiter,
            point,
            behind,
            picked,
        })
    }

    /// Adds the values of the plain rows at the beginning of `bytes` to `values`, and returns how
    /// many bytes those rows take. The rows at the very end are left: a window reaches beyond them.
    pub(crate) fn rows(&self, bytes: &[u8], values: &mut [Vec<i64>]) -> usize {
        let mut at = 0;
        while let Some(window) = bytes.get(at..at + WINDOW).and_then(|w| w.try_into().ok()) {
            let Some(length) = self.row(window, values) else { break };
            at += length;
        }
        at
    }

    /// Adds the values of the row at the beginning of `window`, and returns its length with its end;
    /// `None` if it is not plain or does not fit.
    #[inline]
    fn row(&self, window: &[u8; WINDOW], values: &mut [Vec<i64>]) -> Option<usize> {
        let masked = window.first_chunk()?;
        let [ends, delimiters, points] = masks(masked, [b'\n', self.delimiter, self.point]);
        let length = ends.trailing_zeros() as usize;
        if ends == 0 || matches!(window[0], b'#' | b'/' | b'%' | b'\n') {
            return None;
        }
        // The end of the row ends its last cell; a carriage return is no digit and is left.
        let mut bounds = (delimiters | ends) & (ends ^ (ends - 1));
        let mut from = 0;
        let mut found = [0; 3];
        for picked in &self.picked {
            for _ in 0..picked.skip {
                from = bounds.trailing_zeros() as usize + 1;
                bounds &= bounds.wrapping_sub(1);
            }
            if bounds == 0 {
                return None;
            }
            let to = bounds.trailing_zeros() as usize;
            bounds &= bounds - 1;
            let point = ((points >> from).trailing_zeros() as usize + from).min(to);
            let (mantissa, decimals) = mantissa(window, from, point, to)?;
            // Finer than a nanosecond there is no factor.
            let factor = picked.factors[decimals];
            let ns = mantissa.checked_mul(factor).filter(|_| factor > 0)?;
            found[picked.nth] = i64::try_from(ns).ok()? - picked.base;
            from = to + 1;
        }
        for _ in 0..self.behind {
            bounds &= bounds.wrapping_sub(1);
        }
        // One cell more than there are columns: which is which is not known.
        if bounds != 0 {
            return None;
        }
        for (all, value) in values.iter_mut().zip(found) {
            all.push(value);
        }
        Some(length + 1)
    }
}

/// How many bytes a row may take, its end included.
const MOST_ROW: usize = 64;
/// Eight bytes more, so that eight can be loaded at any of them.
const WINDOW: usize = MOST_ROW + 8;
const TENS: [u64; 9] = [1, 10, 100, 1_000, 10_000, 100_000, 1_000_000, 10_000_000, 100_000_000];
const ONES: u64 = 0x0101_0101_0101_0101;

/// Returns the digits from `from` to `to`, but for the `point` among them, as a number, and how many
/// of them stand behind it; at most eight on either side.
#[inline]
fn mantissa(window: &[u8; WINDOW], from: usize, point: usize, to: usize) -> Option<(u64, usize)> {
    let whole = digits(eight(window, from)?, point - from)?;
    if point == to {
        return Some((whole, 0));
    }
    let decimals = to - point - 1;
    let fraction = digits(eight(window, point + 1)?, decimals)?;
    Some((whole * TENS[decimals] + fraction, decimals))
}

#[inline]
fn eight(window: &[u8; WINDOW], at: usize) -> Option<u64> {
    window.get(at..at + 8)?.try_into().ok().map(u64::from_le_bytes)
}

/// Returns for each of `wanted` at which places of `bytes` it stands, a bit for each place.
#[cfg(target_arch = "x86_64")]
#[inline]
#[expect(unsafe_code, reason = "a portable loop takes four times as long")]
fn masks(bytes: &[u8; MOST_ROW], wanted: [u8; 3]) -> [u64; 3] {
    // SAFETY: what it needs, SSE2, every processor of this architecture has.
    unsafe { masks_sse2(bytes, wanted) }
}

#[cfg(target_arch = "x86_64")]
#[target_feature(enable = "sse2")]
#[inline]
fn masks_sse2(bytes: &[u8; MOST_ROW], wanted: [u8; 3]) -> [u64; 3] {
    use std::arch::x86_64::{_mm_cmpeq_epi8, _mm_movemask_epi8, _mm_set_epi64x, _mm_set1_epi8};
    let mut masks = [0; 3];
    for (nth, part) in bytes.as_chunks::<16>().0.iter().enumerate() {
        let [low, high] = [0, 8].map(|at| {
            let eight = part[at..at + 8].try_into().expect("eight of sixteen");
            u64::from_le_bytes(eight).cast_signed()
        });
        let part = _mm_set_epi64x(high, low);
        for (mask, wanted) in masks.iter_mut().zip(wanted) {
            let same = _mm_cmpeq_epi8(part, _mm_set1_epi8(wanted.cast_signed()));
            *mask |= u64::from(_mm_movemask_epi8(same).cast_unsigned()) << (16 * nth);
        }
    }
    masks
}

/// Returns for each of `wanted` at which places of `bytes` it stands, a bit for each place.
#[cfg(not(target_arch = "x86_64"))]
fn masks(bytes: &[u8; MOST_ROW], wanted: [u8; 3]) -> [u64; 3] {
    wanted.map(|wanted| {
        let bits = bytes.iter().enumerate().map(|(at, &byte)| u64::from(byte == wanted) << at);
        bits.fold(0, |mask, bit| mask | bit)
    })
}

/// Returns the number that the first `length` bytes of `word` write in digits, one to eight.
#[inline]
fn digits(word: u64, length: usize) -> Option<u64> {
    const ZEROS: u64 = ONES * 0x30;
    const FILL: [u64; 9] = {
        let (mut fill, mut length) = ([0; 9], 1);
        while length < 8 {
            fill[length] = ZEROS >> (8 * length);
            length += 1;
        }
        fill
    };
    const HIGH: u64 = ONES * 0xf0;
    if !(1..=8).contains(&length) {
        return None;
    }
    // The digits move to the end, and zeros come ahead of them.
    let word = word << (64 - 8 * length) | FILL[length];
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

    fn row(line: &str, places: &[usize]) -> Option<Vec<i64>> {
        let places: Vec<_> = places.iter().map(|&place| (place, MS)).collect();
        let mut values = vec![Vec::new(); places.len()];
        let quick = Quick::new((b',', 3), &places, 0).unwrap();
        // What follows is no part of it, whatever it looks like.
        let bytes = format!("{line}\n{}", "9,9.9\n".repeat(12));
        let mut first = values.clone();
        let window = bytes.as_bytes()[..WINDOW].try_into().unwrap();
        let length = quick.row(window, &mut first)?;
        assert_eq!(length, line.len() + 1);
        assert!(quick.rows(bytes.as_bytes(), &mut values) >= length);
        assert!(values.iter().zip(&first).all(|(all, first)| all[0] == first[0]));
        Some(first.concat())
    }

    #[test]
    fn plain_rows_are_read_and_others_left() {
        assert_eq!(row("1,16.667,8", &[1]), Some(vec![16_667_000]));
        assert_eq!(row("16.6,x,8.25", &[2, 0]), Some(vec![8_250_000, 16_600_000]));
        assert_eq!(row("3", &[0]), Some(vec![3_000_000]));
        for left in [
            "",
            "#1,2",
            "1,2,3,4",
            "1",
            "1,",
            "1,-3",
            "1,nan",
            "1,\"3\"",
            "1, 3",
            "1,1.2.3",
            "1,16.6666666",
        ] {
            assert_eq!(row(left, &[1]), None, "{left}");
        }
    }
}
