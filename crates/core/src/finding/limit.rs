//! What held a lap back, as far as the conditions show it.

use crate::lab::LapFacts;
use crate::unit::{Nanos, display_size};

/// What a lap was limited by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Limit {
    /// Memory: it was swapped, or waited for.
    Memory,
    /// A disk.
    Disk,
    /// A display's rate.
    Cap,
    /// Heat: the clock fell.
    Heat,
    /// The graphics card.
    Graphics,
    /// Every core.
    Processor,
    /// One thread, while other cores had nothing to do.
    OneThread,
    /// Something else: next to nothing was busy.
    Waiting,
}

impl Limit {
    /// Returns its name, as it reads behind 'this lap was'.
    pub fn words(self) -> &'static str {
        match self {
            Self::Memory => "memory-bound",
            Self::Disk => "disk-bound",
            Self::Cap => "capped",
            Self::Heat => "throttled",
            Self::Graphics => "graphics-bound",
            Self::Processor => "processor-bound",
            Self::OneThread => "one-thread-bound",
            Self::Waiting => "waiting",
        }
    }
}

/// Swapping less than this is the system tidying up.
pub(crate) const LEAST_SWAPPED: u64 = 4 << 20;
/// The share of a lap in which something waited for memory or a disk, and that shows in its time.
const STALLED: f64 = 0.20;
/// Use of a card, or of a core, above which it is full.
const FULL: f64 = 0.90;
/// Use of a card below which it idles.
const IDLE: f64 = 0.50;
/// Busy cores below which next to nothing ran.
const RESTING: f64 = 0.35;

/// Returns what held a lap of `wall` back on a machine of `threads`, and what shows it.
///
/// The first of these that applies: memory swapped or waited for (20 % of the time), a disk waited for
/// (20 %), a display's cap, a clock that fell in the heat, a card in use for 90 %, all threads in use
/// for 90 %, about one core busy of several, next to nothing busy. `None` where nothing is known, or
/// nothing stands out.
pub fn limit(facts: &LapFacts, wall: Nanos, threads: Option<u32>) -> Option<(Limit, String)> {
    let sampled = &facts.conditions.sampled;
    let share = |stalled: Option<Nanos>| stalled.map(|time| time.seconds() / wall.seconds());
    let per_cent = |share: f64| format!("{:.0} %", share * 100.0);
    let card = sampled.graphics_use.map(|course| course.mean);
    if let Some(bytes) = sampled.swapped_bytes.filter(|bytes| *bytes >= LEAST_SWAPPED) {
        return Some((Limit::Memory, format!("{} were swapped", display_size(bytes))));
    }
    if let Some(stalled) = share(sampled.stalled_memory).filter(|share| *share >= STALLED) {
        return Some((
            Limit::Memory,
            format!("memory was waited for {} of the time", per_cent(stalled)),
        ));
    }
    if let Some(stalled) = share(sampled.stalled_disk).filter(|share| *share >= STALLED) {
        return Some((
            Limit::Disk,
            format!("a disk was waited for {} of the time", per_cent(stalled)),
        ));
    }
    if let Some(cap) = facts.frames.as_deref().and_then(|digest| digest.cap) {
        let said = format!("{} of its frames kept to {} Hz", per_cent(cap.share), cap.hz);
        return Some((Limit::Cap, said));
    }
    if let Some((clock, _)) = sampled.throttled() {
        let said = format!("its clock fell from {:.0} to {:.0} MHz", clock.first, clock.last);
        return Some((Limit::Heat, said));
    }
    if let Some(card) = card.filter(|card| *card >= FULL) {
        return Some((Limit::Graphics, format!("the card was {} in use", per_cent(card))));
    }
    let busy = sampled.cores_busy?;
    let threads = threads.map(f64::from).filter(|threads| *threads >= 1.0)?;
    let beside = match card {
        Some(card) if card < IDLE => format!(", while the card idled at {}", per_cent(card)),
        _ => String::new(),
    };
    if busy >= FULL * threads {
        return Some((Limit::Processor, format!("all {threads} threads were in use{beside}")));
    }
    if (0.8..=1.4).contains(&busy) && threads >= 2.0 {
        let said = format!("{busy:.1} of {threads} threads were in use{beside}");
        return Some((Limit::OneThread, said));
    }
    (busy < RESTING && card.is_none_or(|card| card < IDLE))
        .then(|| (Limit::Waiting, format!("{busy:.1} of {threads} threads were in use{beside}")))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Course, Sampled};

    fn found(sampled: Sampled) -> Option<Limit> {
        let mut facts = LapFacts::default();
        facts.conditions.sampled = sampled;
        limit(&facts, Nanos::from_seconds(10), Some(8)).map(|(limit, _)| limit)
    }

    #[test]
    fn what_is_full_is_what_held_it_back() {
        let card = |mean| Some(Course { mean, ..Course::default() });
        let busy = |cores| Sampled { cores_busy: Some(cores), ..Sampled::default() };
        assert_eq!(found(Sampled::default()), None);
        assert_eq!(found(busy(7.9)), Some(Limit::Processor));
        assert_eq!(found(busy(1.02)), Some(Limit::OneThread));
        assert_eq!(found(busy(3.0)), None);
        assert_eq!(found(busy(0.1)), Some(Limit::Waiting));
        assert_eq!(found(Sampled { graphics_use: card(0.97), ..busy(1.0) }), Some(Limit::Graphics));
        assert_eq!(found(Sampled { graphics_use: card(0.6), ..busy(0.1) }), None);
        let swapped = Sampled { swapped_bytes: Some(64 << 20), ..busy(1.0) };
        assert_eq!(found(swapped), Some(Limit::Memory));
        let stalled = Sampled { stalled_disk: Some(Nanos::from_seconds(4)), ..busy(0.2) };
        assert_eq!(found(stalled), Some(Limit::Disk));
        let hot = Sampled {
            clock_mhz: Some(Course { first: 4200.0, last: 2900.0, ..Course::default() }),
            temperature_c: Some(Course { first: 60.0, last: 96.0, ..Course::default() }),
            ..busy(7.9)
        };
        assert_eq!(found(hot), Some(Limit::Heat));
    }

    #[test]
    fn the_card_that_idles_is_told_beside_the_full_core() {
        let mut facts = LapFacts::default();
        facts.conditions.sampled.cores_busy = Some(1.0);
        facts.conditions.sampled.graphics_use = Some(Course { mean: 0.12, ..Course::default() });
        let (_, said) = limit(&facts, Nanos::from_seconds(1), Some(8)).unwrap();
        assert_eq!(said, "1.0 of 8 threads were in use, while the card idled at 12 %");
    }
}
