//! How long the rest of an order will take, from the laps known so far.

use crate::plan::PlannedLap;
use crate::unit::Nanos;
use std::collections::BTreeMap;

/// What is known of each variant's laps: their total and their number.
#[derive(Clone, Debug, Default)]
pub struct Forecast {
    known: BTreeMap<(usize, usize), (Nanos, u64)>,
}

/// A time, and whether every lap of it was known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Expected {
    /// The time of the laps that are known.
    pub time: Nanos,
    /// How many laps nothing is known of.
    pub unknown: usize,
}

impl Forecast {
    /// Imports a lap of a part's variant that took `wall`.
    pub fn add(&mut self, part: usize, variant: usize, wall: Nanos) {
        let (total, count) = self.known.entry((part, variant)).or_default();
        *total = total.plus(wall);
        *count += 1;
    }

    /// Returns how long one lap takes: the mean of its variant's, or of its part's where the
    /// variant has not been run yet.
    pub fn lap(&self, part: usize, variant: usize) -> Option<Nanos> {
        let mean = |(total, count): (Nanos, u64)| total.0.checked_div(count).map(Nanos);
        let own = self.known.get(&(part, variant)).copied();
        own.or_else(|| {
            let of_part = self.known.iter().filter(|((p, _), _)| *p == part);
            of_part.map(|(_, &known)| known).reduce(|a, b| (a.0.plus(b.0), a.1 + b.1))
        })
        .and_then(mean)
    }

    /// Returns how long `laps` take, each followed by the rest of its part, but for the last.
    pub fn of(&self, laps: &[PlannedLap], rest: impl Fn(usize) -> Nanos) -> Expected {
        let mut expected = Expected { time: Nanos(0), unknown: 0 };
        for (place, lap) in laps.iter().enumerate() {
            match self.lap(lap.part, lap.variant) {
                Some(wall) => expected.time = expected.time.plus(wall),
                None => expected.unknown += 1,
            }
            if place + 1 < laps.len() {
                expected.time = expected.time.plus(rest(lap.part));
            }
        }
        expected
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn lap(part: usize, variant: usize) -> PlannedLap {
        PlannedLap { part, variant, round: 1, warm_up: false }
    }

    #[test]
    fn adds_up_laps_and_the_rests_between_them() {
        let mut forecast = Forecast::default();
        forecast.add(0, 0, Nanos(10));
        forecast.add(0, 0, Nanos(20));
        let laps = [lap(0, 0), lap(0, 0), lap(1, 0)];
        let said = forecast.of(&laps, |_| Nanos(1));
        assert_eq!(said, Expected { time: Nanos(32), unknown: 1 });
        assert_eq!(forecast.of(&[], |_| Nanos(1)), Expected { time: Nanos(0), unknown: 0 });
    }

    #[test]
    fn a_variant_not_driven_yet_is_guessed_from_its_siblings() {
        let mut forecast = Forecast::default();
        assert_eq!(forecast.lap(0, 1), None);
        forecast.add(0, 0, Nanos(10));
        forecast.add(0, 2, Nanos(30));
        assert_eq!(forecast.lap(0, 1), Some(Nanos(20)));
        assert_eq!(forecast.lap(0, 2), Some(Nanos(30)));
    }
}
