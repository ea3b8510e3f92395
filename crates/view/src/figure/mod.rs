//! Records in, figures out: what `lap plot` draws, without a file.

mod bars;
mod course;
mod frames;
mod laps;
mod loads;
mod ratios;
mod sweep;
mod tone;
mod worth;

pub use bars::bars;
pub use course::{EnduranceRun, course, went};
pub use frames::{passes, says_of, tail};
pub use laps::laps;
pub use loads::loads;
pub use ratios::{change, index, two_way};
pub use sweep::sweep;
pub use worth::{Over, worth};
