//! What limited a lap, as far as the conditions show it.

use super::facts::LapFacts;
use super::limited::{Limit, Limited, Shows};
use super::stalled::stalled;
use crate::unit::Nanos;

/// Use of a card, or of a core, above which it is full.
const FULL: f64 = 0.90;
/// Use of a card below which it idles.
const IDLE: f64 = 0.50;
/// Threads in use below which next to nothing ran.
const RESTING: f64 = 0.35;
/// Threads in use below which a lap asked for no more, even where others left it nothing.
const ASKED: f64 = 0.05;
/// Threads that others use, above which they take some from the lap where none is left.
const TAKEN: f64 = 0.25;
/// The share of looks that are most.
const MOST: f64 = 0.5;
/// Threads in use that are one thread's work, with what the system does beside it.
const ONE_THREAD: std::ops::RangeInclusive<f64> = 0.8..=1.4;

/// Returns what limited a lap of `wall`, or of its frames together, on a machine of `threads`.
///
/// The first of these that applies: memory that its own processes had swapped or waited for (20 % of the time), a disk that
/// they waited for (20 %), a display's cap, a clock that fell in the heat, a card in use for 90 %, all threads in use
/// for 90 % (by others too, where these used a quarter of one or more: contention), about one thread in use
/// of several, in most looks, next to nothing in use. `None` where nothing is known, or nothing stands out.
///
/// Threads are those that the lap's own processes used, by the processor time that the system accounts to them:
/// a neighbour's are not the lap's. Where that is not on record, all that were in use stand for it.
pub fn limit(facts: &LapFacts, wall: Option<Nanos>, threads: Option<u32>) -> Option<Limited> {
    let wall = facts.lasted(wall)?;
    let found = |by, shows| Some(Limited { by, shows });
    let sampled = &facts.conditions.sampled;
    let card = sampled.graphics_use.map(|course| course.mean);
    if let Some(limited) = stalled(facts, wall) {
        return Some(limited);
    }
    if let Some(cap) = facts.frames.as_deref().and_then(|digest| digest.cap) {
        return found(Limit::Cap, Shows::KeptTo { share: cap.share, hz: cap.hz });
    }
    if let Some((clock, _)) = sampled.throttled() {
        return found(Limit::Heat, Shows::ClockFell { from: clock.first, to: clock.last });
    }
    if let Some(card) = card.filter(|card| *card >= FULL) {
        return found(Limit::Graphics, Shows::Card(card));
    }
    let of = threads.map(f64::from).filter(|threads| *threads >= 1.0)?;
    let used = facts.threads_used(wall).or(sampled.cores_busy)?;
    let shows = Shows::Threads { used, of, card: card.filter(|card| *card < IDLE) };
    if used >= FULL * of {
        return found(Limit::Processor, shows);
    }
    let others = facts.threads_of_others(wall).unwrap_or_default();
    let nothing_left = used + others >= FULL * of && others >= TAKEN;
    if nothing_left && used >= RESTING {
        return found(
            Limit::Contention,
            Shows::Others { others, used, of, by: facts.named_others() },
        );
    }
    // None and two by turns are one in the mean; where others run, looks see theirs too.
    let by_turns = sampled.one_core_busy.is_some_and(|share| share < MOST) && others < TAKEN;
    if ONE_THREAD.contains(&used) && of >= 2.0 && !by_turns {
        return found(Limit::OneThread, shows);
    }
    // Where others left nothing, what used a little may have been kept from more: it is not known to have waited.
    let rests = used < if nothing_left { ASKED } else { RESTING };
    let idles = rests && card.is_none_or(|card| card < IDLE);
    if idles { found(Limit::Waiting, shows) } else { None }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{OwnWaits, QuantitySummary, Sampled};

    fn found(sampled: Sampled) -> Option<Limit> {
        found_of(sampled, OwnWaits::default())
    }

    fn found_of(sampled: Sampled, own: OwnWaits) -> Option<Limit> {
        let mut facts = LapFacts::default();
        (facts.conditions.sampled, facts.conditions.own) = (sampled, own);
        limit(&facts, Some(Nanos::from_seconds(10)), Some(8)).map(|limited| limited.by)
    }

    #[test]
    fn what_is_full_is_what_held_it_back() {
        let card = |mean| Some(QuantitySummary { mean, ..QuantitySummary::default() });
        let busy = |cores| Sampled { cores_busy: Some(cores), ..Sampled::default() };
        assert_eq!(found(Sampled::default()), None);
        assert_eq!(found(busy(7.9)), Some(Limit::Processor));
        assert_eq!(found(busy(1.02)), Some(Limit::OneThread));
        let by_turns = Sampled { one_core_busy: Some(0.33), ..busy(1.0) };
        assert_eq!(found(by_turns), None, "none, one and two threads by turns");
        assert_eq!(found(busy(3.0)), None);
        assert_eq!(found(busy(0.1)), Some(Limit::Waiting));
        assert_eq!(found(Sampled { graphics_use: card(0.97), ..busy(1.0) }), Some(Limit::Graphics));
        assert_eq!(found(Sampled { graphics_use: card(0.6), ..busy(0.1) }), None);
        let waited = |memory, disk| OwnWaits {
            memory: Some(Nanos::from_seconds(memory)),
            disk: Some(Nanos::from_seconds(disk)),
            ..OwnWaits::default()
        };
        assert_eq!(found_of(busy(1.0), waited(4, 0)), Some(Limit::Memory));
        assert_eq!(found_of(busy(0.2), waited(0, 4)), Some(Limit::Disk));
        let hot = Sampled {
            clock_mhz: Some(QuantitySummary {
                first: 4200.0,
                last: 2900.0,
                ..QuantitySummary::default()
            }),
            temperature_c: Some(QuantitySummary {
                first: 60.0,
                last: 96.0,
                ..QuantitySummary::default()
            }),
            ..busy(7.9)
        };
        assert_eq!(found(hot), Some(Limit::Heat));
    }

    #[test]
    fn a_neighbours_threads_are_not_the_laps() {
        let lap = |used_s: u64, others_s: u64| {
            let processor_time = Some(Nanos::from_seconds(used_s));
            let mut facts = LapFacts { processor_time, ..LapFacts::default() };
            facts.conditions.others_cpu = Some(Nanos::from_seconds(others_s));
            facts.conditions.sampled.cores_busy = Some((used_s + others_s) as f64 / 10.0);
            limit(&facts, Some(Nanos::from_seconds(10)), Some(2)).map(|limited| limited.by)
        };
        assert_eq!(lap(0, 10), Some(Limit::Waiting), "a sleep beside a busy program");
        assert_eq!(lap(10, 0), Some(Limit::OneThread));
        assert_eq!(lap(10, 10), Some(Limit::Contention), "no thread is left");
        assert_eq!(lap(19, 1), Some(Limit::Processor));
        assert_eq!(lap(12, 8), Some(Limit::Contention));
        assert_eq!(lap(0, 20), Some(Limit::Waiting), "a sleep beside two of them");
        assert_eq!(lap(3, 17), None, "kept from the processor, or asleep: nobody knows");
    }

    #[test]
    fn the_card_that_idles_is_told_beside_the_full_core() {
        let mut facts = LapFacts::default();
        facts.conditions.sampled.cores_busy = Some(1.0);
        facts.conditions.sampled.graphics_use =
            Some(QuantitySummary { mean: 0.12, ..QuantitySummary::default() });
        let found = limit(&facts, Some(Nanos::from_seconds(1)), Some(8)).unwrap();
        assert_eq!(found.shows, Shows::Threads { used: 1.0, of: 8.0, card: Some(0.12) });
    }
}
