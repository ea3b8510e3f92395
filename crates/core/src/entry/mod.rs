//! Readings made by hand: tables of texts and pressed keys in, checked laps out.

mod cell;
mod draft;
#[cfg(test)]
mod example;
mod form;
mod grid;
mod heading;
mod layout;
mod name;
mod read;
mod recorded;
mod sheet;
mod slip;
mod stopwatch;
mod variant;

pub use draft::{Draft, Drafted, draft, new_workloads};
pub use form::Form;
pub use grid::{Grid, Place};
pub use name::name_for;
pub use read::read_sheet;
pub use recorded::{Change, Recorded, Sorted, sorted};
pub use sheet::{Entry, Mistake, NewRig, Sheet, Understood, Wishes};
pub use slip::{Slip, Slipped, slips};
pub use stopwatch::{Clocked, Press, REACTION_STEP, Stopwatch, Told};
