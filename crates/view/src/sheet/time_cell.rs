//! A time in a sheet.

use crate::table::Cell;
use honest_lap_core::unit::Nanos;

/// Returns the cell of a time that machines read in nanoseconds and people as `text`.
pub(super) fn time_cell(time: Nanos, text: String) -> Cell {
    Cell::whole(time.0).shown(text)
}
