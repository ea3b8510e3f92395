//! The order in which laps are driven, and what comes next. Pure: seeds and outcomes come in.

use crate::random::SplitMix;

/// What is to be driven of one workload.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Part {
    /// How many variants it has, at least 1.
    pub variants: usize,
    /// Counted laps of each.
    pub laps: u32,
    /// Warm-up laps of each.
    pub warm_up: u32,
}

/// One lap to be driven.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PlannedLap {
    /// Which part, counted from 0.
    pub part: usize,
    /// Which variant of it, counted from 0.
    pub variant: usize,
    /// Which round, from 1: the laps of one round are driven together and share its luck.
    pub round: u32,
    /// Whether it only warms up.
    pub warm_up: bool,
}

/// What to do next.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Step {
    /// Drive the lap at this place of the order.
    Drive(usize),
    /// Everything has been driven.
    Finished,
}

/// A lap of the order that has been dealt with, and whether it failed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Driven {
    /// Its place in the order.
    pub place: usize,
    /// Whether it failed.
    pub failed: bool,
}

/// A variant whose laps fail this often in a row is not driven again in this session.
pub const FAILURES_IN_A_ROW: usize = 2;

/// Returns how many counted laps of each variant are driven where `laps` were asked for.
///
/// Two variants are judged in pairs driven A B B A, which a drift cannot favour only if the
/// number of pairs is even; so an odd number is rounded up.
pub fn laps_driven(variants: usize, laps: u32) -> u32 {
    if variants == 2 { laps.next_multiple_of(2) } else { laps }
}

/// Returns the order of all laps: part by part, its warm-ups first, then its rounds interleaved.
///
/// * One variant: lap after lap. Two: A B, B A, A B, …, so that a steady drift favours neither.
///   More: every round holds each variant once, shuffled by `seed`.
/// * Source: randomised complete blocks, Fisher (1935), *The Design of Experiments*.
pub fn order(parts: &[Part], seed: u64) -> Vec<PlannedLap> {
    let mut random = SplitMix::new(seed);
    let mut order = Vec::new();
    for (part, plan) in parts.iter().enumerate() {
        let laps = laps_driven(plan.variants, plan.laps);
        for (rounds, warm_up) in [(plan.warm_up, true), (laps, false)] {
            for round in 1..=rounds {
                let mut variants: Vec<usize> = (0..plan.variants).collect();
                match plan.variants {
                    2 if round % 2 == 0 => variants.reverse(),
                    1 | 2 => {}
                    _ => random.shuffle(&mut variants),
                }
                order.extend(variants.into_iter().map(|variant| PlannedLap {
                    part,
                    variant,
                    round,
                    warm_up,
                }));
            }
        }
    }
    order
}

/// Returns what to do next, given every lap of `order` dealt with so far.
///
/// The variants that have failed [`FAILURES_IN_A_ROW`] times running are passed over.
pub fn next_step(order: &[PlannedLap], driven: &[Driven]) -> Step {
    let from = driven.last().map_or(0, |last| last.place + 1);
    (from..order.len())
        .find(|&place| !gave_up(order, driven, order[place]))
        .map_or(Step::Finished, Step::Drive)
}

/// Returns whether the variant of `lap` has failed too often in a row.
pub fn gave_up(order: &[PlannedLap], driven: &[Driven], lap: PlannedLap) -> bool {
    let same = |d: &&Driven| {
        order.get(d.place).is_some_and(|l| (l.part, l.variant) == (lap.part, lap.variant))
    };
    driven.iter().rev().filter(same).take_while(|d| d.failed).count() >= FAILURES_IN_A_ROW
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn variants_of(parts: &[Part], seed: u64) -> String {
        order(parts, seed)
            .iter()
            .map(|lap| char::from(if lap.warm_up { b'a' } else { b'A' } + lap.variant as u8))
            .collect()
    }

    #[test]
    fn two_variants_go_a_b_b_a_in_an_even_number_of_pairs() {
        let part = Part { variants: 2, laps: 3, warm_up: 1 };
        assert_eq!(variants_of(&[part], 1), "abABBAABBA");
        assert_eq!(variants_of(&[Part { variants: 1, laps: 3, warm_up: 0 }], 1), "AAA");
    }

    #[test]
    fn more_variants_are_shuffled_round_by_round_and_the_seed_repeats_it() {
        let part = Part { variants: 4, laps: 50, warm_up: 0 };
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
        let part = Part { variants: 3, laps: 6_000, warm_up: 0 };
        let said = variants_of(&[part], 42);
        let mut counts = std::collections::BTreeMap::new();
        for round in said.as_bytes().chunks(3) {
            *counts.entry(round).or_insert(0) += 1;
        }
        assert_eq!(counts.len(), 6);
        // Six orders, 1,000 each; five standard deviations are 144.
        assert!(counts.values().all(|&n| (856..=1144).contains(&n)), "{counts:?}");
    }

    #[test]
    fn a_variant_that_keeps_failing_is_passed_over_and_the_other_is_not() {
        let order = order(&[Part { variants: 2, laps: 4, warm_up: 0 }], 0);
        // A B B A A B B A; A fails at places 0 and 3.
        let driven: Vec<Driven> = [true, false, false, true]
            .into_iter()
            .enumerate()
            .map(|(place, failed)| Driven { place, failed })
            .collect();
        assert_eq!(next_step(&order, &driven[..3]), Step::Drive(3));
        assert_eq!(next_step(&order, &driven), Step::Drive(5));
        let all = Driven { place: 6, failed: false };
        assert_eq!(next_step(&order, &[&driven[..], &[all]].concat()), Step::Finished);
    }

    proptest! {
        #[test]
        fn every_variant_gets_its_laps(
            variants in 1usize..6, laps in 1u32..9, warm_up in 0u32..3, seed in any::<u64>(),
        ) {
            let order = order(&[Part { variants, laps, warm_up }], seed);
            for variant in 0..variants {
                let of = |warm: bool| {
                    order.iter().filter(|l| l.variant == variant && l.warm_up == warm).count() as u32
                };
                prop_assert_eq!(of(true), warm_up);
                prop_assert_eq!(of(false), laps_driven(variants, laps));
            }
        }
    }
}
