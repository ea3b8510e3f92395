//! What a rig could have held, had nothing but its own work kept it.

use crate::record::{Busy, Display, HoldsRate};

/// The rates that are asked about, in Hz.
pub const RATES: [f64; 8] = [30.0, 60.0, 72.0, 90.0, 120.0, 144.0, 165.0, 240.0];
/// A rate is held where this share of frames has its work done within the budget.
const HELD_SHARE: f64 = 0.99;

/// Returns what the work behind the frames would allow, or `None` where none is known.
///
/// ```text
/// wᵢ = max(processorᵢ, graphicsᵢ)      rate = n / Σw
/// missed(r) = share of wᵢ > 1/r        spare(r) = 1 − q(0.99) of w · r
/// ```
/// Processor and card work side by side, so the longer one sets the pace. Where only one of them
/// is in the log, the rate is what that one allows, and the other may allow less.
///
/// * Shape: frame times and busy times frame by frame; busy times empty where unknown, 0 for a single frame that is.
/// * Units: nanoseconds in, frames a second out; a share of the time of the frames whose busy time is known.
/// * Source: definitions of this tool; two units side by side are as quick as the slower one.
pub fn busy(shown: &[u64], processor: &[u64], graphics: &[u64]) -> Option<Busy> {
    let n = processor.len().max(graphics.len());
    let at = |of: &[u64], place: usize| of.get(place).copied().unwrap_or(0);
    let known = |place: &usize| {
        (processor.is_empty() || at(processor, *place) > 0)
            && (graphics.is_empty() || at(graphics, *place) > 0)
    };
    let work = (0..n).filter(known).map(|i| at(processor, i).max(at(graphics, i)));
    let mut work: Vec<u64> = work.collect();
    if work.is_empty() {
        return None;
    }
    let total: u64 = work.iter().sum();
    let missed = RATES.map(|hz| {
        let budget = Display { hz }.budget_ns() as u64;
        work.iter().filter(|&&work| work > budget).count()
    });
    let h = (work.len() - 1) as f64 * HELD_SHARE;
    let (_, low, above) = work.select_nth_unstable(h.floor() as usize);
    let low = *low as f64;
    let high = above.iter().min().map_or(low, |&high| high as f64);
    let p99 = low + h.fract() * (high - low);
    let n = work.len() as f64;
    let of_rate = |(hz, missed): (f64, usize)| {
        let spare = 1.0 - p99 / Display { hz }.budget_ns();
        HoldsRate { hz, missed: missed as f64 / n, spare }
    };
    Some(Busy {
        frames: work.len() as u64,
        processor: !processor.is_empty(),
        graphics: !graphics.is_empty(),
        rate: work.len() as f64 * 1e9 / total as f64,
        processor_share: share(shown, processor),
        graphics_share: share(shown, graphics),
        at: RATES.into_iter().zip(missed).map(of_rate).collect(),
    })
}

/// Returns the share of the frames' time in which one of the two was busy with them.
fn share(shown: &[u64], busy: &[u64]) -> Option<f64> {
    let known = shown.iter().zip(busy).filter(|(_, busy)| **busy > 0);
    let (time, work) =
        known.fold((0, 0), |(time, work), (shown, busy)| (time + shown, work + busy));
    (time > 0).then(|| work as f64 / time as f64)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_longer_work_sets_the_pace_and_says_which_rates_it_would_hold() {
        // The card needs 8 ms, in one frame of ten 12 ms; the processor always 5 ms.
        let graphics: Vec<u64> =
            (0..1_000).map(|i| if i % 10 == 0 { 12_000_000 } else { 8_000_000 }).collect();
        let found = busy(&[16_000_000; 1_000], &[5_000_000; 1_000], &graphics).unwrap();
        assert_eq!((found.processor_share, found.graphics_share), (Some(0.3125), Some(0.525)));
        assert!((found.rate - 1_000.0 / 8.4).abs() < 1e-9);
        let at = |hz: f64| *found.at.iter().find(|at| at.hz == hz).unwrap();
        assert_eq!((at(60.0).missed, at(90.0).missed, at(144.0).missed), (0.0, 0.1, 1.0));
        assert!((at(60.0).spare - 0.28).abs() < 1e-9, "12 of 16.67 ms");
        assert!(at(90.0).spare < 0.0);
    }

    #[test]
    fn frames_without_a_known_time_are_left_out() {
        assert_eq!(busy(&[], &[], &[]), None);
        assert_eq!(busy(&[9, 9], &[0, 0], &[]), None);
        let found = busy(&[20_000_000; 3], &[10_000_000, 0, 10_000_000], &[]).unwrap();
        assert_eq!((found.frames, found.rate, found.graphics), (2, 100.0, false));
        assert_eq!((found.processor_share, found.graphics_share), (Some(0.5), None));
    }
}
