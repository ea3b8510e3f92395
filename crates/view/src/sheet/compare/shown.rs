//! What a comparison is made of.

use honest_lap_core::analysis::Analysis;
use honest_lap_core::record::Remark;

/// What a comparison shows.
pub struct Shown<'a> {
    /// What the laps support.
    pub analysis: &'a Analysis<'a>,
    /// What people said.
    pub remarks: &'a [Remark],
    /// What other commands must be told to read the same laps, ahead of it a blank: ` --store`, or nothing.
    pub reads: &'a str,
}
