//! `lap compare`: each workload best first, the answer ahead of its table and the method behind.

mod answer;
mod beside;
mod columns;
mod doubted;
mod elsewhere;
mod naming;
mod notes;
mod paper;
mod scale;
mod shown;
mod whole;

pub use answer::answer;
pub(super) use beside::evidence;
pub use doubted::Doubted;
pub use elsewhere::{among, places, sources};
pub use naming::{heading, in_study_order};
pub use paper::of_peak_words;
pub use scale::Scale;
pub use shown::Shown;
pub use whole::{Detail, Tables, compare, marked, tables};
