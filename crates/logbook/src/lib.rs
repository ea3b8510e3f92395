//! The logbook: what was recorded, written once, committed lap by lap, never altered.
//!
//! One SQLite file beside the study. `docs/formats/logbook.md` describes every table. Nothing
//! here sums up or judges; it gives back what was written.

mod accounts;
mod beside;
pub mod carry;
mod chunks;
mod copy;
mod detail_texts;
mod error;
mod examine;
pub mod exchange;
mod foreign;
mod frames;
mod hash;
mod json;
mod machines;
mod merge;
mod moment;
mod names;
mod new;
mod open;
mod parcel;
mod patience;
mod read;
mod remark;
mod schema;
mod seal;
mod series;
mod stored;
mod take_over;
mod upgrade;
mod write;

pub use beside::{AlikeLaps, AlikeTo, Everything};
pub use detail_texts::DetailTexts;
pub use error::LogbookError;
pub use merge::{MOST_MERGE_BYTES, Merged, TwoMachines, Visitor};
pub use new::{NewLap, NewSession, OpenSession};
pub use open::Logbook;
pub use parcel::add_packed;
pub use patience::when_waiting;
pub use remark::SealedRemarks;
pub use seal::{Broken, SealedSession, Signed, public_key};

#[cfg(test)]
mod beside_tests;
#[cfg(test)]
mod documented_tests;
#[cfg(test)]
mod frames_tests;
#[cfg(test)]
mod hostile_tests;
#[cfg(test)]
mod mutation_tests;
#[cfg(test)]
mod tests;
#[cfg(test)]
mod writers_tests;
