//! Records in, figures out: what `lap plot` draws, without a file.

mod bars;
mod course;
mod frames;
mod laps;
mod loads;
mod ratios;
mod sweep;
mod worth;

pub use bars::bars;
pub use course::{EnduranceRun, course, went};
pub use frames::{passes, says_of, tail};
pub use laps::laps;
pub use loads::loads;
pub use ratios::{change, index, two_way};
pub use sweep::sweep;
pub use worth::{Over, worth};

use honest_lap_core::judge::{Against, Verdict};
use honest_lap_draw::chart::Tone;

/// Returns the tone of what is said of a row.
fn tone(against: &Against) -> Tone {
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
