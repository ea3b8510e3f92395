//! The starter: a small process between the tool and a lap, one for every lap.
//!
//! It owns the lap's whole tree (a child subreaper: whatever loses its parent becomes its own
//! child), reads the clock around start and reap, keeps both output streams drained, and ends
//! the tree when the lap is over, too long, no longer wanted, or when the tool itself is gone.
//! Being small it also keeps the lap's peak memory from starting at the tool's own.
//!
//! One thread starts the program, waits for its end and reads the clock (serve.rs); everything else is
//! seen to by others (attend.rs, looks.rs), so that nothing can come between an end and its moment.

mod attend;
mod control;
mod looks;
mod moment;
mod own_waits;
mod program;
mod serve;
mod stream;
mod tree;
mod watched;
mod wire;

pub(crate) use control::{Beside, Next, run, run_beside};
pub use program::{NAME, is_starter_argument};
pub use serve::serve;
pub(crate) use tree::own_pid;
pub(crate) use wire::{Ended, Order, Report, Spools};

/// The environment variable that marks a lap's processes, so that they can be found again.
pub(crate) const MARK: &str = "HONEST_LAP_MARK";
