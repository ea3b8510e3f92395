//! What people read: an analysis and records in words, sheets, figures and pages.
//!
//! Nothing here reads a file, a clock or a terminal, and nothing works out a figure beyond its layout.

pub mod chart;
pub mod figure;
pub mod guide;
pub mod number;
pub mod overview;
pub mod page;
pub mod sheet;
pub mod table;
pub mod words;
