//! The order in which laps are run, and what comes next. Pure: seeds and outcomes come in.

use crate::stat::SplitMix;
use crate::unit::Nanos;

/// What is to be run of one workload.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Part {
    /// How many variants it has, at least 1.
    pub variants: usize,
    /// How many of them follow each other in a fixed order, such as cold before warm.
    pub block: usize,
    /// Counted laps of each.
    pub laps: u32,
    /// Warm-up laps of each.
    pub warm_up: u32,
}

impl Part {
    /// Returns how many blocks of variants take turns.
    pub fn blocks(&self) -> usize {
        self.variants / self.block.max(1)
    }

    /// Returns how many counted laps of each variant are run where `laps` were asked for.
    ///
    /// Two blocks are judged in pairs run A B B A, which a drift cannot favour only if the
    /// number of pairs is even; so an odd number is rounded up.
    pub fn driven(&self) -> u32 {
        if self.blocks() == 2 { self.laps.next_multiple_of(2) } else { self.laps }
    }
}

/// One lap to be run.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct PlannedLap {
    /// Which part, counted from 0.
    pub part: usize,
    /// Which variant of it, counted from 0.
    pub variant: usize,
    /// Which round, from 1: the laps of one round are run together and share its luck.
    pub round: u32,
    /// Whether it only warms up.
    pub warm_up: bool,
}

/// What to do next.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Step {
    /// Run the lap at this place of the order.
    Run(usize),
    /// Everything has been run.
    Finished,
}

/// A lap of the order that has been dealt with, and whether it failed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct DoneLap {
    /// Its place in the order.
    pub place: usize,
    /// Whether it failed.
    pub failed: bool,
    /// Its time, if it counts.
    pub time: Option<Nanos>,
}

/// A variant whose laps fail this often in a row is not run again in this session.
pub const FAILURES_IN_A_ROW: usize = 2;

/// Returns the laps of one round of a part, each variant once.
///
/// * One block of variants: in their own order. Two: A B, then B A, then A B, …, so that a steady
///   drift favours neither. More: shuffled, by `seed` and the round alone.
/// * Source: randomised complete blocks, Fisher (1935), *The Design of Experiments*.
pub fn round(part: usize, plan: &Part, round: u32, warm_up: bool, seed: u64) -> Vec<PlannedLap> {
    let mut blocks: Vec<usize> = (0..plan.blocks()).collect();
    match blocks.len() {
        2 if round.is_multiple_of(2) => blocks.reverse(),
        0..=2 => {}
        _ => {
            // A stream of its own for every round: what came before must not matter.
            let place = (part as u64) << 33 | u64::from(round) << 1 | u64::from(warm_up);
            let own = SplitMix::new(place).bits();
            SplitMix::new(seed ^ own).shuffle(&mut blocks);
        }
    }
    let variants = blocks.into_iter().flat_map(|b| b * plan.block..(b + 1) * plan.block);
    variants.map(|variant| PlannedLap { part, variant, round, warm_up }).collect()
}

/// Returns the order of all laps: part by part, its warm-ups first, then its rounds interleaved.
pub fn order(parts: &[Part], seed: u64) -> Vec<PlannedLap> {
    let mut order = Vec::new();
    for (part, plan) in parts.iter().enumerate() {
        for (rounds, warm_up) in [(plan.warm_up, true), (plan.driven(), false)] {
            order.extend((1..=rounds).flat_map(|r| round(part, plan, r, warm_up, seed)));
        }
    }
    order
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const PAIR: Part = Part { variants: 2, block: 1, laps: 3, warm_up: 1 };

    fn variants_of(parts: &[Part], seed: u64) -> String {
        order(parts, seed)
            .iter()
            .map(|lap| char::from(if lap.warm_up { b'a' } else { b'A' } + lap.variant as u8))
            .collect()
    }

    #[test]
    fn two_variants_go_a_b_b_a_in_an_even_number_of_pairs() {
        let part = PAIR;
        assert_eq!(variants_of(&[part], 1), "abABBAABBA");
        assert_eq!(variants_of(&[Part { variants: 1, laps: 3, warm_up: 0, ..PAIR }], 1), "AAA");
    }

    #[test]
    fn cold_comes_straight_before_warm_whatever_takes_turns() {
        let cold_warm = Part { block: 2, laps: 2, warm_up: 0, ..PAIR };
        assert_eq!(variants_of(&[cold_warm], 1), "ABAB", "one block: no turns to take");
        let twice = Part { variants: 4, ..cold_warm };
        assert_eq!(variants_of(&[twice], 1), "ABCDCDAB");
    }

    #[test]
    fn more_variants_are_shuffled_round_by_round_and_the_seed_repeats_it() {
        let part = Part { variants: 4, laps: 50, warm_up: 0, ..PAIR };
        let said = variants_of(&[part], 7);
        assert_eq!(said, variants_of(&[part], 7));
        assert_ne!(said, variants_of(&[part], 8));
        for round in said.as_bytes().chunks(4) {
            let mut sorted = round.to_vec();
            sorted.sort_unstable();
            assert_eq!(sorted, b"ABCD");
        }
    }

    #[test]
    fn every_order_of_three_comes_up_about_equally_often() {
        let part = Part { variants: 3, laps: 6_000, warm_up: 0, ..PAIR };
        let said = variants_of(&[part], 42);
        let mut counts = std::collections::BTreeMap::new();
        for round in said.as_bytes().chunks(3) {
            *counts.entry(round).or_insert(0) += 1;
        }
        assert_eq!(counts.len(), 6);
        // Six orders, 1,000 each; five standard deviations are 144.
        assert!(counts.values().all(|&n| (856..=1144).contains(&n)), "{counts:?}");
    }

    proptest! {
        #[test]
        fn every_variant_gets_its_laps(
            variants in 1usize..6, laps in 1u32..9, warm_up in 0u32..3, seed in any::<u64>(),
        ) {
            let part = Part { variants, block: 1, laps, warm_up };
            let order = order(&[part], seed);
            for variant in 0..variants {
                let of = |warm: bool| {
                    order.iter().filter(|l| l.variant == variant && l.warm_up == warm).count() as u32
                };
                prop_assert_eq!(of(true), warm_up);
                prop_assert_eq!(of(false), part.driven());
            }
        }
    }
}
