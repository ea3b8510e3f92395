//! How a verdict looks.

use crate::chart::Tone;
use honest_lap_core::judge::{Against, Verdict};

/// Returns the tone of what is said of a row.
pub(super) fn tone(against: &Against) -> Tone {
    match against {
        Against::Baseline | Against::Alone => Tone::Baseline,
        Against::Other(difference) => match difference.verdict {
            Verdict::Faster | Verdict::FasterWithin(_) => Tone::Better,
            Verdict::Slower | Verdict::SlowerWithin(_) => Tone::Worse,
            Verdict::SameWithin(_) => Tone::Same,
            Verdict::TooClose | Verdict::Refused(_) => Tone::Open,
        },
    }
}
