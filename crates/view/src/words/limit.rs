//! What limited a lap, in words.

use super::list::listed;
use honest_lap_core::lab::{Limit, Limited, Shows};
use honest_lap_core::unit::display_size;

/// Returns a limit as it reads behind 'this lap was'.
pub fn limit_words(limit: Limit) -> &'static str {
    match limit {
        Limit::Memory => "memory-bound",
        Limit::Disk => "disk-bound",
        Limit::Cap => "capped",
        Limit::Heat => "throttled",
        Limit::Graphics => "graphics-bound",
        Limit::Processor => "processor-bound",
        Limit::OneThread => "one-thread-bound",
        Limit::Contention => "short of processor",
        Limit::Waiting => "waiting",
    }
}

/// Returns what shows a limit.
pub fn shows_words(limited: &Limited) -> String {
    let per_cent = |share: f64| format!("{:.0} %", share * 100.0);
    match &limited.shows {
        Shows::Swapped(bytes) => format!("{} were swapped", display_size(*bytes)),
        Shows::MemoryWait(share) => {
            format!("it waited for memory {} of the time", per_cent(*share))
        }
        Shows::DiskWait(share) => format!("it waited for a disk {} of the time", per_cent(*share)),
        Shows::DiskMoved { share, bytes } => format!(
            "a disk was waited for {} of the time, and it moved {}",
            per_cent(*share),
            display_size(*bytes)
        ),
        Shows::KeptTo { share, hz } => {
            format!("{} of its frames kept to {hz} Hz", per_cent(*share))
        }
        Shows::ClockFell { from, to } => format!("its clock fell from {from:.0} to {to:.0} MHz"),
        Shows::Card(share) => format!("the card was {} in use", per_cent(*share)),
        Shows::Threads { used, of, card } => {
            let beside = card.map(|card| format!(", while the card idled at {}", per_cent(card)));
            let beside = beside.unwrap_or_default();
            format!("{used:.1} of {of} threads used{beside}")
        }
        Shows::Others { others, used, of, by } => {
            let by = if by.is_empty() { "other programs".to_owned() } else { listed(by) };
            format!("{used:.1} of {of} threads used, {others:.1} more by {by}")
        }
    }
}

/// Returns a limit with what shows it: `disk-bound: a disk was waited for 40 % of the time`.
pub fn limited_words(limited: &Limited) -> String {
    format!("{}: {}", limit_words(limited.by), shows_words(limited))
}
