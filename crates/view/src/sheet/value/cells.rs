//! Cells that several tables of value have.

use crate::number::{fixed, significant};
use crate::table::Cell;
use crate::words::interval_words;
use honest_lap_core::stat::Interval;

pub(super) fn number(value: f64) -> Cell {
    Cell::number(value, significant(value, 3))
}

pub(super) fn times(value: f64) -> Cell {
    Cell::number(value, format!("{}×", fixed(value, 2)))
}

pub(super) fn ends(interval: Interval) -> String {
    interval_words(&fixed(interval.low, 2), &fixed(interval.high, 2))
}

pub(super) fn money(value: f64, unit: &str) -> Cell {
    Cell::number(value, format!("{value} {unit}"))
}
