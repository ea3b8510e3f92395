//! Times in whole nanoseconds, each in as many bytes as the longest of them needs.

use crate::unit::Nanos;
use std::ops::Range;

/// Times one after the other.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Times {
    /// The lowest bytes of each, lowest first.
    bytes: Vec<u8>,
    /// How many bytes each has.
    width: usize,
}

/// The bytes of a whole number.
const WHOLE: usize = size_of::<u64>();

/// Returns how many bytes `time` needs.
fn needed(time: Nanos) -> usize {
    (u64::BITS - time.0.leading_zeros()).div_ceil(u8::BITS).max(1) as usize
}

/// Has `each` look at times of so many bytes.
fn wide<const WIDTH: usize>(bytes: &[u8], mut each: impl FnMut(Nanos)) {
    for low in bytes.as_chunks::<WIDTH>().0 {
        let mut whole = [0; WHOLE];
        whole[..WIDTH].copy_from_slice(low);
        each(Nanos(u64::from_le_bytes(whole)));
    }
}

impl Times {
    /// Returns `all` of them.
    pub(super) fn of(all: &[Nanos]) -> Self {
        let width = all.iter().copied().map(needed).max().unwrap_or_default();
        let mut bytes = Vec::with_capacity(all.len() * width);
        all.iter().for_each(|time| bytes.extend_from_slice(&time.0.to_le_bytes()[..width]));
        Self { bytes, width }
    }

    /// Adds a time behind the others.
    pub(super) fn push(&mut self, time: Nanos) {
        self.widen(needed(time));
        self.bytes.extend_from_slice(&time.0.to_le_bytes()[..self.width]);
    }

    /// Adds the first so `many` of `others` behind them.
    pub(super) fn append(&mut self, others: &Self, many: usize) {
        self.widen(others.width);
        if self.width == others.width {
            self.bytes.extend_from_slice(&others.bytes[..many * others.width]);
        } else {
            (0..many).for_each(|place| self.push(others.at(place)));
        }
    }

    /// Returns the time at `place`, below its length.
    pub(super) fn at(&self, place: usize) -> Nanos {
        let from = place * self.width;
        let mut whole = [0; WHOLE];
        match self.bytes.get(from..from + WHOLE) {
            // What belongs to the next ones is cut off.
            Some(bytes) => {
                whole.copy_from_slice(bytes);
                let above = (WHOLE - self.width) * u8::BITS as usize;
                Nanos(u64::from_le_bytes(whole) << above >> above)
            }
            None => {
                whole[..self.width].copy_from_slice(&self.bytes[from..from + self.width]);
                Nanos(u64::from_le_bytes(whole))
            }
        }
    }

    /// Has `each` look at the times at `places`, below their number.
    pub(super) fn each(&self, places: Range<usize>, each: impl FnMut(Nanos)) {
        let bytes = &self.bytes[places.start * self.width..places.end * self.width];
        // Of so many bytes each a time is put together in a step or two.
        match self.width {
            1 => wide::<1>(bytes, each),
            2 => wide::<2>(bytes, each),
            3 => wide::<3>(bytes, each),
            4 => wide::<4>(bytes, each),
            5 => wide::<5>(bytes, each),
            6 => wide::<6>(bytes, each),
            7 => wide::<7>(bytes, each),
            _ => wide::<WHOLE>(bytes, each),
        }
    }

    pub(super) fn shrink(&mut self) {
        self.bytes.shrink_to_fit();
    }

    fn widen(&mut self, width: usize) {
        if width <= self.width {
            return;
        }
        let all = self.bytes.len().checked_div(self.width).unwrap_or_default();
        let mut wider = Vec::with_capacity(all * width);
        for place in 0..all {
            wider.extend_from_slice(&self.at(place).0.to_le_bytes()[..width]);
        }
        *self = Self { bytes: wider, width };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_time_comes_back_to_the_nanosecond() {
        let all = [0, 1, 255, 256, 70_000, 3, 1 << 40, 5, u64::MAX, 9].map(Nanos);
        let mut times = Times::default();
        for (place, time) in all.iter().enumerate() {
            times.push(*time);
            let found: Vec<Nanos> = (0..=place).map(|place| times.at(place)).collect();
            assert_eq!(found, all[..=place]);
            let mut seen = Vec::new();
            times.each(place / 2..place + 1, |time| seen.push(time));
            assert_eq!(seen, all[place / 2..=place]);
        }
    }

    #[test]
    fn a_minute_takes_five_bytes() {
        let all = [Nanos::from_seconds(60); 1_000];
        let mut times = Times::default();
        all.iter().for_each(|time| times.push(*time));
        times.shrink();
        assert_eq!((times.bytes.len(), times.bytes.capacity()), (5_000, 5_000));
        assert_eq!(Times::of(&all), times);
    }
}
