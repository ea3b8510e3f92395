//! Sizes and times that may be unknown.

use super::super::time_cell::time_cell;
use crate::table::Cell;
use honest_lap_core::unit::{Nanos, display_size, display_span};

pub(super) fn size(bytes: Option<u64>) -> Cell {
    Cell::or_missing(bytes, |bytes| Cell::whole(bytes).shown(display_size(bytes)))
}

pub(super) fn time(span: Option<Nanos>) -> Cell {
    Cell::or_missing(span, |span| time_cell(span, display_span(span)))
}
