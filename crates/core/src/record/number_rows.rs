//! Rows of whole numbers that have much in common: the first as it is, and of each other one how it differs, in as few bytes
//! a column as hold that.

use std::ops::Range;

/// Rows of as many numbers each.
///
/// * Shape: of `n` rows, n − 1 times the bytes that the differences of its columns need; a column that is always the same
///   needs none.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct NumberRows {
    first: Box<[u64]>,
    /// How many bytes each column has in a row that is not the first.
    widths: Box<[u8]>,
    /// What other rows differ in from the first, bit by bit: lowest bytes first.
    others: Vec<u8>,
    len: u32,
}

/// The bytes of a number.
const WHOLE: usize = size_of::<u64>();

fn needed(number: u64) -> u8 {
    (u64::BITS - number.leading_zeros()).div_ceil(u8::BITS) as u8
}

fn whole(low: &[u8]) -> u64 {
    let mut bytes = [0; WHOLE];
    bytes[..low.len()].copy_from_slice(low);
    u64::from_le_bytes(bytes)
}

impl NumberRows {
    /// Returns how many rows there are.
    pub fn len(&self) -> u32 {
        self.len
    }

    /// Returns whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len == 0
    }

    /// Adds a row of as many numbers as each of the others has.
    pub fn push(&mut self, row: &[u64]) {
        self.push_times(row, 1);
    }

    /// Adds the same row so many times.
    pub fn push_times(&mut self, row: &[u64], mut times: u32) {
        if times == 0 {
            return;
        }
        if self.is_empty() {
            self.first = row.into();
            self.widths = vec![0; row.len()].into();
            (self.len, times) = (1, times - 1);
        }
        let narrow =
            |((number, first), width): ((&u64, &u64), &u8)| needed(number ^ first) <= *width;
        if !row.iter().zip(&self.first).zip(&self.widths).all(narrow) {
            let widths = row.iter().zip(&self.first).zip(&self.widths);
            let wider =
                |((number, first), width): ((&u64, &u64), &u8)| needed(number ^ first).max(*width);
            self.widen(widths.map(wider).collect());
        }
        let rows = if row.is_empty() { 0 } else { times };
        for _ in 0..rows {
            for ((number, first), width) in row.iter().zip(&self.first).zip(&self.widths) {
                let differs = (number ^ first).to_le_bytes();
                self.others.extend_from_slice(&differs[..usize::from(*width)]);
            }
        }
        self.len += times;
    }

    /// Adds all of `others` behind them.
    pub fn append(&mut self, others: &Self) {
        if self.is_empty() {
            *self = others.clone();
            return;
        }
        if others.first.is_empty() {
            self.len += others.len;
            return;
        }
        let mut row = Vec::new();
        for place in 0..others.len {
            row.clear();
            row.extend(others.row(place));
            self.push(&row);
        }
    }

    /// Returns the row at `place`, below their number.
    pub fn row(&self, place: u32) -> impl Iterator<Item = u64> {
        let mut rest = self.other(place);
        self.first.iter().zip(&self.widths).map(move |(first, width)| {
            let Some((differs, others)) = rest.split_at_checked(usize::from(*width)) else {
                return *first;
            };
            rest = others;
            first ^ whole(differs)
        })
    }

    /// Returns the number in `column` of the row at `place`, both below their number.
    pub fn at(&self, place: u32, column: usize) -> u64 {
        let (from, to) = self.within(column);
        self.first[column] ^ self.other(place).get(from..to).map_or(0, whole)
    }

    /// Has `each` look at the numbers in `column` of the rows at `places`, all below their number.
    pub fn each(&self, places: Range<u32>, column: usize, mut each: impl FnMut(u64)) {
        let (from, to) = self.within(column);
        for place in places {
            each(self.first[column] ^ self.other(place).get(from..to).map_or(0, whole));
        }
    }

    /// Lets go of room that is not needed any more.
    pub fn shrink(&mut self) {
        self.others.shrink_to_fit();
    }

    /// Returns where in a row that is not the first the bytes of `column` begin and end.
    fn within(&self, column: usize) -> (usize, usize) {
        let from: usize = self.widths[..column].iter().copied().map(usize::from).sum();
        (from, from + usize::from(self.widths[column]))
    }

    /// Returns the bytes of the row at `place`; none of the first.
    fn other(&self, place: u32) -> &[u8] {
        let bytes = self.bytes();
        place.checked_sub(1).map_or(&[], |before| &self.others[before as usize * bytes..][..bytes])
    }

    /// Returns how many bytes a row has that is not the first.
    fn bytes(&self) -> usize {
        self.widths.iter().copied().map(usize::from).sum()
    }

    /// Gives columns so many bytes each, none fewer than it has.
    fn widen(&mut self, widths: Box<[u8]>) {
        let mut others = Vec::with_capacity(self.others.len() * 2);
        let mut rest = self.others.as_slice();
        for _ in 1..self.len {
            for (old, new) in self.widths.iter().zip(&widths) {
                let (differs, behind) = rest.split_at(usize::from(*old));
                others.extend_from_slice(&whole(differs).to_le_bytes()[..usize::from(*new)]);
                rest = behind;
            }
        }
        (self.others, self.widths) = (others, widths);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rows(all: &[[u64; 3]]) -> NumberRows {
        let mut rows = NumberRows::default();
        all.iter().for_each(|row| rows.push(row));
        rows
    }

    const ALL: [[u64; 3]; 6] = [
        [7, 1 << 40, 0],
        [7, (1 << 40) + 3, 5],
        [7, u64::MAX, 0],
        [7, 0, 300],
        [7, 1 << 40, 1],
        [7, 2, 65_535],
    ];

    #[test]
    fn every_number_comes_back() {
        for many in 1..=ALL.len() {
            let rows = rows(&ALL[..many]);
            assert_eq!(rows.len() as usize, many);
            for (row, place) in ALL[..many].iter().zip(0..) {
                assert_eq!(rows.row(place).collect::<Vec<u64>>(), row);
                assert_eq!([0, 1, 2].map(|column| rows.at(place, column)), *row);
            }
            for column in 0..3 {
                let mut seen = Vec::new();
                rows.each(0..rows.len(), column, |number| seen.push(number));
                assert_eq!(seen, ALL[..many].iter().map(|row| row[column]).collect::<Vec<_>>());
            }
        }
        assert!(NumberRows::default().is_empty());
    }

    #[test]
    fn a_column_takes_what_its_differences_need() {
        let mut few = rows(&[[7, 1 << 40, 5], [7, (1 << 40) + 300, 6], [7, (1 << 40) + 1, 5]]);
        few.shrink();
        assert_eq!((few.others.len(), few.others.capacity()), (2 * 3, 2 * 3));
        assert!(rows(&[[1, 2, 3]; 9]).others.is_empty(), "nothing where nothing differs");
    }

    #[test]
    fn however_they_come_they_lie_alike() {
        for cut in 0..=ALL.len() {
            let mut joined = rows(&ALL[..cut]);
            joined.append(&rows(&ALL[cut..]));
            assert_eq!(joined, rows(&ALL));
        }
        let mut many = rows(&ALL[..2]);
        many.push_times(&ALL[2], 3);
        many.push_times(&ALL[3], 0);
        assert_eq!(many, rows(&[ALL[0], ALL[1], ALL[2], ALL[2], ALL[2]]));
        // Rows of no numbers are only counted.
        let mut none = NumberRows::default();
        none.push_times(&[], 4_000_000_000);
        let mut seven = NumberRows::default();
        seven.push_times(&[], 7);
        none.append(&seven);
        assert_eq!((none.len(), none.row(9).count()), (4_000_000_007, 0));
    }
}
