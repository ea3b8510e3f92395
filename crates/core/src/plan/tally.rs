//! What has been run of an order so far, kept up to date lap by lap: no question about it costs more the longer a session
//! gets.

use super::forecast::{Expected, Forecast};
use super::schedule::{DoneLap, FAILURES_IN_A_ROW, PlannedLap};
use super::spread::Spreads;
use crate::unit::Nanos;
use std::collections::{BTreeMap, HashMap};

/// What is kept of a part.
#[derive(Clone, Debug, Default)]
struct Part {
    /// Rounds of which every counted lap has been dealt with, from the first on.
    whole: u32,
    /// The last round that is in the order.
    last: u32,
    /// The times of each variant's counted laps, by round.
    times: Vec<BTreeMap<u32, f64>>,
    /// How far they spread, over all rounds.
    spreads: Spreads,
}

/// An order and what has been dealt with of it.
#[derive(Clone, Debug, Default)]
pub(super) struct Tally {
    order: Vec<PlannedLap>,
    places: HashMap<PlannedLap, usize>,
    done: Vec<bool>,
    /// Nothing ahead of the first is left, nor anything from the second on.
    bounds: (usize, usize),
    /// Of each part and variant, how many of its laps are left and how often its last ones failed in a row.
    cells: BTreeMap<(usize, usize), Cell>,
    parts: Vec<Part>,
}

#[derive(Clone, Copy, Debug, Default)]
struct Cell {
    left: usize,
    failures: usize,
}

impl Cell {
    fn gave_up(self) -> bool {
        self.failures >= FAILURES_IN_A_ROW
    }
}

impl Tally {
    /// Returns the tally of parts with so many variants each, none of whose laps is in the order yet.
    pub(super) fn new(variants: impl IntoIterator<Item = usize>) -> Self {
        let part = |n| Part { times: vec![BTreeMap::new(); n], ..Part::default() };
        Self { parts: variants.into_iter().map(part).collect(), ..Self::default() }
    }

    pub(super) fn order(&self) -> &[PlannedLap] {
        &self.order
    }

    pub(super) fn place_of(&self, lap: PlannedLap) -> Option<usize> {
        self.places.get(&lap).copied()
    }

    /// Returns the last round of a part that is in the order.
    pub(super) fn last_round(&self, part: usize) -> u32 {
        self.parts[part].last
    }

    /// Adds laps at the end of the order.
    pub(super) fn extend(&mut self, laps: impl IntoIterator<Item = PlannedLap>) {
        for lap in laps {
            self.places.insert(lap, self.order.len());
            self.order.push(lap);
            self.done.push(false);
            self.cells.entry((lap.part, lap.variant)).or_default().left += 1;
            if !lap.warm_up {
                let part = &mut self.parts[lap.part];
                part.last = part.last.max(lap.round);
            }
        }
        self.bounds.1 = self.order.len();
    }

    /// Imports what came of a lap; one that was run again has the later say.
    pub(super) fn take(&mut self, driven: &DoneLap) {
        let Some(&lap) = self.order.get(driven.place) else { return };
        let cell = self.cells.entry((lap.part, lap.variant)).or_default();
        let again = std::mem::replace(&mut self.done[driven.place], true);
        cell.left -= usize::from(!again);
        cell.failures = if driven.failed { cell.failures + 1 } else { 0 };
        if !lap.warm_up {
            self.time(lap, driven.time.map(Nanos::seconds));
        }
        self.advance(lap.part);
    }

    fn time(&mut self, lap: PlannedLap, seconds: Option<f64>) {
        let part = &mut self.parts[lap.part];
        let known = &mut part.times[lap.variant];
        let before = match seconds {
            Some(seconds) => known.insert(lap.round, seconds),
            None => known.remove(&lap.round),
        };
        match (before, seconds) {
            (None, Some(_)) => part.spreads.add(&part.times, (lap.variant, lap.round)),
            (None, None) => {}
            // What was known of it is wrong now: that is rare.
            (Some(_), _) => part.spreads = Spreads::of(&part.times, u32::MAX),
        }
    }

    /// Moves the bounds and the part's whole rounds over what is not left any more.
    fn advance(&mut self, part: usize) {
        while self.bounds.0 < self.bounds.1 && !self.is_left(self.bounds.0) {
            self.bounds.0 += 1;
        }
        while self.bounds.0 < self.bounds.1 && !self.is_left(self.bounds.1 - 1) {
            self.bounds.1 -= 1;
        }
        let Some(&Part { whole, last, ref times, .. }) = self.parts.get(part) else { return };
        let dealt_with = |round: u32| {
            let lap = |variant| PlannedLap { part, variant, round, warm_up: false };
            let places = (0..times.len()).filter_map(|variant| self.place_of(lap(variant)));
            places.into_iter().all(|place| !self.is_left(place))
        };
        self.parts[part].whole =
            (whole + 1..=last).take_while(|&round| dealt_with(round)).last().unwrap_or(whole);
    }

    fn is_left(&self, place: usize) -> bool {
        !self.done[place] && !self.gave_up(self.order[place])
    }

    /// Returns whether the variant of `lap` has failed too often in a row.
    pub(super) fn gave_up(&self, lap: PlannedLap) -> bool {
        self.cells.get(&(lap.part, lap.variant)).is_some_and(|cell| cell.gave_up())
    }

    /// Returns whether laps of this variant would still be run, had it not failed.
    pub(super) fn has_more(&self, lap: PlannedLap) -> bool {
        self.cells.get(&(lap.part, lap.variant)).is_some_and(|cell| cell.left > 0)
    }

    /// Returns the first lap that is left of parts that are `wanted`, with its place.
    pub(super) fn next(&self, wanted: impl Fn(usize) -> bool) -> Option<usize> {
        (self.bounds.0..self.bounds.1)
            .find(|&place| self.is_left(place) && wanted(self.order[place].part))
    }

    /// Returns how many counted rounds of a part have been dealt with whole.
    pub(super) fn whole_rounds(&self, part: usize) -> u32 {
        self.parts[part].whole
    }

    /// Returns how far a part's figures spread after `rounds` rounds; those of variants that gave up count not.
    pub(super) fn half_width(&self, part: usize, rounds: u32) -> Option<f64> {
        let Part { times, spreads, .. } = &self.parts[part];
        let gave_up =
            |variant| self.gave_up(PlannedLap { part, variant, round: 1, warm_up: false });
        let known_later =
            times.iter().any(|known| known.range(rounds.saturating_add(1)..).next().is_some());
        match known_later {
            true => Spreads::of(times, rounds).half_width(gave_up),
            false => spreads.half_width(gave_up),
        }
    }

    /// Returns how long what is left should take, each lap followed by the rest of its part, but for the last.
    pub(super) fn left(&self, forecast: &Forecast, rest: impl Fn(usize) -> Nanos) -> Expected {
        let mut expected = Expected { time: Nanos(0), unknown: 0 };
        for (&(part, variant), cell) in self.cells.iter().filter(|(_, cell)| !cell.gave_up()) {
            let many = |span: Nanos| Nanos(span.0.saturating_mul(cell.left as u64));
            match forecast.lap(part, variant) {
                Some(lap) => expected.time = expected.time.plus(many(lap)),
                None => expected.unknown += cell.left,
            }
            expected.time = expected.time.plus(many(rest(part)));
        }
        let last = self.bounds.1.checked_sub(1).filter(|_| self.bounds.0 < self.bounds.1);
        let behind = last.map_or(Nanos(0), |place| rest(self.order[place].part));
        expected.time = expected.time.minus(behind);
        expected
    }
}

#[cfg(test)]
mod tests {
    use super::super::schedule::{Part as Plan, order};
    use super::*;
    use proptest::prelude::*;

    const PAIR: Plan = Plan { variants: 2, block: 1, laps: 4, warm_up: 0 };

    fn tally(parts: &[Plan]) -> Tally {
        let mut tally = Tally::new(parts.iter().map(|part| part.variants));
        tally.extend(order(parts, 0));
        tally
    }

    fn came(place: usize, failed: bool) -> DoneLap {
        DoneLap { place, failed, time: (!failed).then_some(Nanos(1_000 + place as u64)) }
    }

    #[test]
    fn a_variant_that_keeps_failing_is_passed_over_and_the_other_is_not() {
        // A B B A A B B A; A fails at places 0 and 3.
        let mut tally = tally(&[PAIR]);
        for (place, failed) in [(0, true), (1, false), (2, false)] {
            tally.take(&came(place, failed));
        }
        assert_eq!(tally.next(|_| true), Some(3));
        tally.take(&came(3, true));
        assert_eq!((tally.next(|_| true), tally.whole_rounds(0)), (Some(5), 2));
        // A lap that was not dealt with, though a later one was, is not forgotten.
        tally.take(&came(6, false));
        assert_eq!(tally.next(|_| true), Some(5));
        tally.take(&came(5, false));
        assert_eq!((tally.next(|_| true), tally.whole_rounds(0)), (None, 4));
        assert!(tally.gave_up(PlannedLap { part: 0, variant: 0, round: 1, warm_up: false }));
    }

    proptest! {
        /// What is kept lap by lap is what one look at all of it says.
        #[test]
        fn it_is_what_all_laps_together_say(
            variants in 1_usize..4, laps in 1_u32..6, warm_up in 0_u32..2,
            outcomes in prop::collection::vec((any::<prop::sample::Index>(), prop::bool::weighted(0.3)), 0..40),
        ) {
            let parts = [Plan { variants, block: 1, laps, warm_up }, PAIR];
            let mut tally = tally(&parts);
            let all = order(&parts, 0);
            let mut said = Vec::new();
            for (index, failed) in outcomes {
                let driven = came(index.index(all.len()), failed);
                // A variant that was given up is not run any more.
                if !tally.gave_up(all[driven.place]) {
                    tally.take(&driven);
                    said.push(driven);
                }
            }
            let mut failures: HashMap<(usize, usize), usize> = HashMap::new();
            for driven in &said {
                let lap = all[driven.place];
                let row = failures.entry((lap.part, lap.variant)).or_default();
                *row = if driven.failed { *row + 1 } else { 0 };
            }
            let gave_up = |lap: &PlannedLap| failures.get(&(lap.part, lap.variant)).is_some_and(|row| *row >= 2);
            let left: Vec<(usize, PlannedLap)> = all.iter().copied().enumerate()
                .filter(|(place, lap)| !said.iter().any(|driven| driven.place == *place) && !gave_up(lap))
                .collect();
            prop_assert_eq!(tally.next(|_| true), left.first().map(|(place, _)| *place));
            let mut forecast = Forecast::default();
            forecast.add(0, 0, Nanos(7));
            let rest = |part| Nanos(100 + part as u64);
            let laps: Vec<PlannedLap> = left.iter().map(|(_, lap)| *lap).collect();
            prop_assert_eq!(tally.left(&forecast, rest), forecast.of(&laps, rest));
            for (part, plan) in parts.iter().enumerate() {
                let open = left.iter().filter(|(_, lap)| lap.part == part && !lap.warm_up);
                let whole = open.map(|(_, lap)| lap.round - 1).min().unwrap_or(plan.driven());
                prop_assert_eq!(tally.whole_rounds(part), whole);
            }
        }
    }
}
