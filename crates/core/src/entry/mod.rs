//! Readings made by hand: tables of texts and pressed keys in, checked laps out.

mod stopwatch;
mod table;
mod wide;

pub use stopwatch::{Clocked, Press, REACTION_STEP, Stopwatch, Told};
pub use table::{Common, Entry, EntryError, Slip, entries, slips};
pub use wide::wide_entries;
