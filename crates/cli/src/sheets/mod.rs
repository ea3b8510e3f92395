//! Records in, sheets out: what each command shows, without a terminal.

mod compare;
mod lap;
mod preview;
mod session;
mod sessions;
mod verify;
pub mod words;

pub use compare::{Works, compare};
pub use lap::lap;
pub use preview::preview;
pub use session::session;
pub use sessions::sessions;
pub use verify::verify;

use honest_lap_core::time::Nanos;
use honest_lap_draw::Cell;

/// Returns the cell of a time that machines read in nanoseconds and people as `text`.
fn time_cell(time: Nanos, text: String) -> Cell {
    Cell::whole(time.0).shown(text)
}

/// Returns seconds as whole nanoseconds: sums are computed in seconds and written in ours.
fn nanos(seconds: f64) -> Nanos {
    Nanos((seconds * 1e9).round() as u64)
}
