//! Reads the text of a `study.toml` into the model, or into every mistake in it.
//!
//! Nothing here opens a file: the text comes in, and mistakes go out as byte ranges of it, each
//! with its problem and its remedy. What a key means is said in [`keys`].

mod endurance;
mod frames;
pub mod keys;
mod launch;
mod load;
mod mistake;
mod modes;
mod only;
mod others;
mod part;
mod places;
mod product;
mod read;
mod reading;
mod rig;
mod section;
mod vary;
mod workload;
mod write;

pub use mistake::Mistake;
pub use read::{MOST_STUDY_BYTES, read};
pub use write::{drafted_text, elsewhere_text, with_rig, with_rig_key, with_workloads};

#[cfg(test)]
mod tests;
