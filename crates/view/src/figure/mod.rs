//! Records in, figures out: what `lap plot` draws, without a file.

mod bars;
mod conditions;
mod frames;
mod laps;
mod loads;
mod overview;
mod rate_profile;
mod ratios;
mod sweep;
mod tone;
mod worth;

pub use bars::bars;
pub use conditions::conditions;
pub use frames::{passes, says_of, tail};
pub use laps::laps;
pub use loads::loads;
pub use overview::overview;
pub use rate_profile::{EnduranceRun, rate_profile, went};
pub use ratios::{change, index, two_way};
pub use sweep::sweep;
pub use worth::{Over, worth};
