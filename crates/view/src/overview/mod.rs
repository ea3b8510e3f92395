//! The overview: which rig, by how much, where is it different, and what cannot be trusted.
//!
//! One typed picture of a whole comparison, which the table, the figure and the head of the page show each in its way.

mod cell;
mod make;

pub use cell::{ColumnMarks, Sign, Stand, signs_words};
pub use make::overview;

/// A comparison at a glance.
#[derive(Clone, Debug, PartialEq)]
pub struct Overview {
    /// What its columns are.
    pub across: Columns,
    /// The names of its columns: rigs or variants, what the others are held against first.
    pub columns: Vec<String>,
    /// All of it in one line, where that is known.
    pub index: Option<Line>,
    /// A line a workload and variant, in the study's order.
    pub lines: Vec<Line>,
}

/// What the columns of an overview are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Columns {
    /// Rigs, held against the baseline.
    Rigs,
    /// Variants, held against the first of their rig.
    Variants,
}

/// One line of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Line {
    /// Workload and variant, and the measure where it is not the time.
    pub name: String,
    /// The workload that it is of; empty for the index.
    pub workload: String,
    /// A cell for every column; `None` where nobody has laps of it.
    pub cells: Vec<Option<Stand>>,
    /// Who is best of it, where one is.
    pub best: Option<String>,
}
