//! What was read from a lap, where it lies: in the lap itself, or what laps have in common and each lap's values apart.

use super::measure::Reading;
use super::number_rows::NumberRows;

/// The readings of a lap.
#[derive(Clone, Copy, Debug)]
pub struct Readings<'l> {
    /// Every one; where values lie apart, without them.
    all: &'l [Reading],
    apart: Option<ValuesApart<'l>>,
}

/// The values of a lap's readings, where they lie in a row of numbers.
#[derive(Clone, Copy, Debug)]
pub struct ValuesApart<'l> {
    /// The rows.
    pub rows: &'l NumberRows,
    /// Which of them is the lap's.
    pub place: u32,
    /// In which column the first value lies. Each reading that has one has [`COLUMNS`] columns.
    pub from: usize,
}

/// How many columns a reading takes that has a value: that, and what was seen.
const COLUMNS: usize = 1 + SEEN;
/// How many columns a short text takes.
pub const SEEN: usize = 2;

/// Returns a real number as a whole one: those of few digits are small.
pub fn as_whole(real: f64) -> u64 {
    real.to_bits().swap_bytes()
}

/// Returns the real number that stands as this whole one.
pub fn as_real(whole: u64) -> f64 {
    f64::from_bits(whole.swap_bytes())
}

impl<'l> Readings<'l> {
    /// Returns readings that have their values themselves.
    pub(crate) fn of(all: &'l [Reading]) -> Self {
        Self { all, apart: None }
    }

    /// Returns readings whose values lie apart.
    pub(crate) fn apart(all: &'l [Reading], values: ValuesApart<'l>) -> Self {
        Self { all, apart: Some(values) }
    }

    /// Returns their names.
    pub fn names(self) -> impl Iterator<Item = &'l str> {
        self.all.iter().map(|reading| reading.name.as_str())
    }

    /// Returns the value of the measure `name`, if it could be read.
    pub(crate) fn value(self, name: &str) -> Option<f64> {
        let own = self.all[self.place_of(name)?].value?;
        let apart =
            |apart: ValuesApart<'_>| Some(as_real(apart.rows.at(apart.place, self.column(name)?)));
        self.apart.map_or(Some(own), apart)
    }

    /// Returns the column in which the values of the measure `name` lie, where they lie apart.
    pub(crate) fn column(self, name: &str) -> Option<usize> {
        let before = &self.all[..self.place_of(name)?];
        let with_values = before.iter().filter(|reading| reading.value.is_some()).count();
        Some(self.apart?.from + COLUMNS * with_values)
    }

    /// Returns the step in which the measure `name` was read.
    pub(super) fn step(self, name: &str) -> Option<f64> {
        self.all[self.place_of(name)?].step
    }

    fn place_of(self, name: &str) -> Option<usize> {
        self.all.iter().position(|reading| reading.name == name)
    }
}
