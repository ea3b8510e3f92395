//! What differs between laps that are alike: the number, the round and the time of each, packed.

use super::steps::Steps;
use super::times::Times;
use crate::unit::Nanos;
use std::ops::Range;

/// The number, round and time of laps, one after the other.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct LapTimes {
    numbers: Steps,
    rounds: Steps,
    walls: Times,
}

impl LapTimes {
    /// Returns how many laps they are of.
    pub fn len(&self) -> usize {
        self.numbers.len()
    }

    /// Returns whether they are of none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Returns those of as many laps as there are `walls`; `None` where there are not as many of each, or their numbers are
    /// none of laps in the order run.
    pub fn of(numbers: Steps, rounds: Steps, walls: &[Nanos]) -> Option<Self> {
        let as_many = numbers.len() == walls.len() && rounds.len() == walls.len();
        let in_order = numbers.are_rising() && numbers.iter().next().is_none_or(|first| first > 0);
        (as_many && in_order).then(|| Self { numbers, rounds, walls: Times::of(walls) })
    }

    /// Adds a lap behind the others.
    pub fn push(&mut self, number: u32, round: u32, wall: Nanos) {
        self.numbers.push(number);
        self.rounds.push(round);
        self.walls.push(wall);
    }

    /// Adds all of `others` behind them.
    pub(super) fn append(&mut self, others: &Self) {
        self.numbers.append(&others.numbers);
        self.rounds.append(&others.rounds);
        self.walls.append(&others.walls, others.len());
    }

    /// Returns them in their order.
    pub fn iter(&self) -> impl Iterator<Item = (u32, u32, Nanos)> {
        let walls = (0..self.len()).map(|place| self.walls.at(place));
        let numbers = self.numbers.iter().zip(self.rounds.iter());
        numbers.zip(walls).map(|((number, round), wall)| (number, round, wall))
    }

    /// Returns those at `place`, below their number.
    pub(super) fn at(&self, place: u32) -> (u32, u32, Nanos) {
        (self.numbers.at(place), self.rounds.at(place), self.wall(place))
    }

    /// Returns the round at `place` alone.
    pub(super) fn round(&self, place: u32) -> u32 {
        self.rounds.at(place)
    }

    /// Has `each` look at the times at `places` alone.
    pub(super) fn each_wall(&self, places: Range<u32>, each: impl FnMut(Nanos)) {
        self.walls.each(places.start as usize..places.end as usize, each);
    }

    /// Returns the time at `place` alone.
    pub(super) fn wall(&self, place: u32) -> Nanos {
        self.walls.at(place as usize)
    }

    /// Returns where the lap of that number stands, of laps in the order run.
    pub(super) fn place_of(&self, number: u32) -> Option<u32> {
        self.numbers.place_of(number)
    }

    /// Returns whether they stand in the order run.
    pub(super) fn are_in_order(&self) -> bool {
        self.numbers.are_rising()
    }

    /// Lets go of room that is not needed any more.
    pub fn shrink(&mut self) {
        self.numbers.shrink();
        self.rounds.shrink();
        self.walls.shrink();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn times(laps: impl IntoIterator<Item = (u32, u32, u64)>) -> LapTimes {
        let mut times = LapTimes::default();
        laps.into_iter().for_each(|(number, round, ns)| times.push(number, round, Nanos(ns)));
        times
    }

    #[test]
    fn what_is_appended_lies_as_if_it_had_come_one_by_one() {
        let lap = |number: u32| (number, number.div_ceil(2), u64::from(number) << (number % 50));
        for (from, cut, to, step) in [(1, 50, 90, 1), (1, 3, 9, 2), (4, 4, 40, 3), (1, 2, 2, 1)] {
            let numbers = |from, to| (from..=to).step_by(step).map(lap);
            let mut joined = times(numbers(from, cut));
            let next = from + (cut - from) / step as u32 * step as u32 + step as u32;
            joined.append(&times(numbers(next, to)));
            assert_eq!(joined, times(numbers(from, to)));
        }
        // A B B A and a stretch that goes on otherwise.
        for (first, second) in [(vec![1, 4, 5], vec![8, 9, 12]), (vec![1, 2], vec![3, 5, 7, 9])] {
            let mut joined = times(first.iter().copied().map(lap));
            joined.append(&times(second.iter().copied().map(lap)));
            assert_eq!(joined, times(first.into_iter().chain(second).map(lap)));
        }
        let mut none = LapTimes::default();
        none.append(&LapTimes::default());
        assert!(none.is_empty());
    }
}
