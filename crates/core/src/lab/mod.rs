//! The lab: all that a study has on record, as the rest of core wants it.

mod energy;
mod facts;

pub use energy::{ENERGY, PEAK_POWER, POWER, add_energy, measures};
pub use facts::{LapFacts, Sitting};
