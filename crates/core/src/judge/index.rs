//! An index: what is weighed into it, what it comes to for each rig, and why two rigs have none.

use super::assumption::Assumptions;
use super::cell_name::CellName;
use super::difference::Difference;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// What is weighed, and how.
#[derive(Clone, Debug, Default)]
pub struct Weighing {
    /// The weight of each workload; 1 where it has none here, and 0 leaves it out.
    pub weights: BTreeMap<String, f64>,
    /// The workloads that are weighed; all where it is empty.
    pub only: BTreeSet<String>,
    /// Rigs in the order in which they serve as baseline.
    pub rig_order: Vec<String>,
    /// What is taken for granted.
    pub assume: Assumptions,
}

/// Something that enters.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Entered {
    /// What.
    #[serde(flatten)]
    pub of: CellName,
    /// Its share of the whole.
    pub share: f64,
}

/// Something that cannot enter, since a rig lacks it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Missing {
    /// What.
    #[serde(flatten)]
    pub of: CellName,
    /// The rigs that have no verdict in it.
    pub rigs: Vec<String>,
}

/// Why two rigs have no index.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum NoIndex {
    /// One of them lacks something.
    Missing(Missing),
    /// No workload has laps of both.
    NothingInCommon {
        /// The one.
        rig: String,
        /// The one it would be held against.
        base: String,
    },
}

/// How far one workload moves an index.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Moved {
    /// The workload.
    pub workload: String,
    /// What the index is without it.
    pub without: f64,
    /// What the index is with twice its weight.
    pub doubled: f64,
}

/// A rig in an index.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct OverallRow {
    /// The rig.
    pub rig: String,
    /// How it stands to the baseline, which has none: a ratio above 1 is better.
    pub against: Option<Difference>,
    /// How far every workload moves its index, the farthest first, where there are two of them.
    pub moved: Vec<Moved>,
}

/// An index over workloads.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Overall {
    /// What enters.
    pub entered: Vec<Entered>,
    /// What does not: an index over all is refused then, and this one is over the others.
    pub missing: Vec<Missing>,
    /// What has values of zero and so no ratio to weigh: it is left out for all, and refuses nothing.
    pub without_ratio: Vec<CellName>,
    /// What shows a display's rate or a limiter's on some rig: it is left out for all, and refuses nothing.
    pub capped: Vec<Missing>,
    /// The rigs, best first.
    pub rows: Vec<OverallRow>,
}
