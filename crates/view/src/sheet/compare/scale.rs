//! The unit of a table, and the digits of its values.

use crate::number::{TimeUnit, decimals, fixed, significant};
use crate::words::display_read;
use honest_lap_core::capacity::{CAPACITY, step_name};
use honest_lap_core::endurance;
use honest_lap_core::frame;
use honest_lap_core::judge::{Row, WorkloadView};
use honest_lap_core::lab::is_derived;
use honest_lap_core::record::Work;
use honest_lap_core::unit::suited;

/// The unit of a table: one that suits its times, or the measure's own.
pub struct Scale {
    time: Option<TimeUnit>,
    pub symbol: String,
    /// Whether the values were worked out from many, and have more digits than anyone read.
    worked_out: bool,
    /// The steps whose places its values are, counted from 1, where they have names.
    steps: Vec<String>,
}

impl Scale {
    pub fn of(view: &WorkloadView, rows: &[Row]) -> Self {
        let (measure, steps) = (&view.measure, view.steps.clone());
        if !measure.is_time() {
            let name = measure.name.as_str();
            let of_core = [frame::is_measure, endurance::is_measure, is_derived];
            let worked_out = name == CAPACITY || of_core.iter().any(|is| is(name));
            return Self { time: None, symbol: measure.unit.clone(), worked_out, steps };
        }
        let typical = rows.iter().filter_map(|row| row.cell.as_ref()).map(|cell| cell.typical());
        let least = typical.fold(f64::INFINITY, f64::min);
        let unit = TimeUnit::of(if least.is_finite() { least } else { 1.0 });
        Self { time: Some(unit), symbol: unit.symbol.to_owned(), worked_out: false, steps }
    }

    /// Returns the name of the step that a value is, where it is one.
    pub fn step(&self, value: f64) -> Option<String> {
        step_name(&self.steps, value)
    }

    /// Returns a value to the digits that its spread supports.
    pub fn show(&self, value: f64, spread: Option<f64>) -> String {
        if let Some(step) = self.step(value) {
            return step;
        }
        let scaled = |value: f64| self.time.map_or(value, |unit| unit.value(value));
        let value = scaled(value);
        // Values that do not differ spread by what adding them up rounds off: that is no spread.
        let spread = spread.filter(|spread| scaled(*spread) > value.abs() * 1e-9);
        match spread.and_then(|spread| decimals(scaled(spread))) {
            Some(digits) => fixed(value, digits),
            None if self.time.is_some() => significant(value, 3),
            None if self.worked_out && value.fract() != 0.0 => significant(value, 4),
            // Values that were read alike are shown as they were read.
            None => display_read(value),
        }
    }
}

/// The unit of a table's rates: the work's own, with the prefix that suits them.
pub struct RateScale {
    by: f64,
    pub symbol: String,
}

impl RateScale {
    pub fn of(work: &Work, rows: &[Row]) -> Self {
        let rates = rows.iter().filter_map(|row| row.rate.as_ref()).map(|rate| rate.a_second.value);
        let (by, unit) = suited(rates.fold(0.0, f64::max), work.unit());
        Self { by, symbol: format!("{unit}/s") }
    }

    /// Returns a rate to the digits that its spread supports, which is a share of it.
    pub fn show(&self, rate: f64, spread: Option<f64>) -> String {
        let rate = rate / self.by;
        let digits = spread.and_then(|spread| decimals(rate * spread));
        digits.map_or_else(|| significant(rate, 3), |digits| fixed(rate, digits))
    }
}
