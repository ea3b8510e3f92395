//! What a comparison comes to, ready to be shown: groups of rows, best first.

use super::cell::Cell;
use super::count::Counts;
use super::difference::Difference;
#[cfg(test)]
use super::figures::{Figures, PlainFigures};
use super::plain::Plain;
use super::rank::RankRange;
use super::rate::Rate;
use crate::lab::{CellLimited, ColumnMean, Traits, Unlike};
use crate::record::{Measure, Settings};
use serde::Serialize;

/// One measure of a workload, compared.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct WorkloadView {
    /// The workload's name.
    pub workload: String,
    /// The measure.
    pub measure: Measure,
    /// The form of its task that is compared.
    pub task: u32,
    /// Whether it is work, which an index weighs.
    pub is_work: bool,
    /// The steps whose places its values are, counted from 1, where they have names.
    pub steps: Vec<String>,
    /// Its groups: rigs against each other for each variant, then variants on the rigs.
    pub groups: Vec<Group>,
}

/// What the rows of a group have in common.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "held", content = "variant", rename_all = "kebab-case")]
pub enum HeldConstant {
    /// The variant; the rows are rigs.
    Variant(
        #[serde(serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        Settings,
    ),
    /// The rows are variants, each held against the first variant of its own rig.
    Rigs,
}

/// Rows that are held against each other.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Group {
    /// What they have in common.
    #[serde(flatten)]
    pub held: HeldConstant,
    /// The rows, best first; those without a time last.
    pub rows: Vec<Row>,
    /// Runs of rows none of which the laps tell apart: the first and the last of each.
    pub ties: Vec<(usize, usize)>,
}

/// One cell of a comparison.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Row {
    /// The rig.
    pub rig: String,
    /// The variant.
    #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub settings: Settings,
    /// Its laps, told apart.
    pub counts: Counts,
    /// Its counted values; `None` if there are none, or one of them has no logarithm.
    #[cfg_attr(test, schemars(with = "Option<Figures>"))]
    pub cell: Option<Cell>,
    /// Its counted values where one of them has no logarithm: they have no ratio.
    #[cfg_attr(test, schemars(with = "Option<PlainFigures>"))]
    pub plain: Option<Plain>,
    /// The work in a second that it comes to, where that is known.
    pub rate: Option<Rate>,
    /// Whether it shows a display's rate or a limiter's, and not what the rig can do.
    pub capped: bool,
    /// How much work a lap does, where its time is compared and that is known.
    #[serde(skip)]
    pub work: Option<f64>,
    /// What it is held against.
    pub against: Against,
    /// Its place among the rigs of its group, where it can have one.
    pub places: Option<RankRange>,
    /// Why the rig cannot do it, where the study says so.
    pub unsupported: Option<String>,
    /// The measures beside this one that are asked for, in the order in which they are.
    pub columns: Vec<ColumnMean>,
    /// What limited most of its laps, where one thing did.
    pub limited: Option<CellLimited>,
    /// What its laps were run under and came to, besides their values.
    #[serde(skip)]
    pub traits: Traits,
    /// In what it differs from what it is held against, so that both are not comparable.
    pub differs: Vec<Unlike>,
}

/// How a row stands to its baseline.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "stands", rename_all = "kebab-case")]
pub enum Against {
    /// It is the baseline.
    Baseline,
    /// There is nothing else in the group.
    Alone,
    /// It is held against the baseline.
    Other(Difference),
}

impl Row {
    /// Returns whether it has counted values, with a ratio or without.
    pub fn has_values(&self) -> bool {
        self.cell.is_some() || self.plain.is_some()
    }

    /// Returns its values on their own scale.
    pub(super) fn on_scale(&self) -> Option<Plain> {
        self.plain.clone().or_else(|| self.cell.as_ref().map(Plain::of_cell))
    }

    /// Returns whether it is held against something, and nothing can be said.
    pub fn is_refused(&self) -> bool {
        matches!(&self.against, Against::Other(difference) if difference.is_refused())
    }
}
