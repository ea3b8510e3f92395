//! What can be asked of a lab.

use crate::record::{PublishedClaim, Settings};
use serde::Serialize;

/// What is held against each other.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Across {
    /// Rigs, and variants on each rig, wherever there are two.
    #[default]
    Both,
    /// Rigs, variant by variant.
    Rigs,
    /// Variants, rig by rig.
    Variants,
    /// The values of a setting, on every rig.
    Setting(String),
}

/// From which rig to which an upgrade leads.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Way {
    /// The rig that it starts from; the baseline if there is none.
    pub from: Option<String>,
    /// The rig that it leads to; every other if there is none.
    pub to: Option<String>,
}

/// What is asked: which workloads, measures, rigs and variants; held against what; how close is the same.
///
/// The default asks for everything that is compared unasked.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Question {
    /// The workloads; all if empty.
    pub workloads: Vec<String>,
    /// The measures; those that each workload is compared by if empty.
    pub measures: Vec<String>,
    /// Measures that stand beside the compared one; `watts` and `joules` are of whatever tells them.
    pub columns: Vec<String>,
    /// The rigs; all if empty.
    pub rigs: Vec<String>,
    /// Settings that a variant must have.
    #[serde(serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub with: Settings,
    /// What is held against each other.
    pub across: Across,
    /// The rig that the others are held against; the study's if there is none.
    pub baseline: Option<String>,
    /// How close counts as the same, as a fraction; the study's if there is none.
    pub margin: Option<f64>,
    /// Why what is not comparable is compared anyway; it is not, where nothing is said.
    pub despite: Option<String>,
    /// Sentences to be checked.
    pub claims: Vec<PublishedClaim>,
    /// Whether work is weighed against money and energy, and which upgrades are reckoned.
    pub worth: Option<Way>,
}

impl Question {
    /// Returns whether `workload` is asked about.
    pub(super) fn is_about(&self, workload: &str) -> bool {
        self.workloads.is_empty() || self.workloads.iter().any(|name| name == workload)
    }
}
