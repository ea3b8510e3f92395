//! The answer to a claim: whether it holds, with the figures that say so.

use super::sentence::Caution;
use crate::judge::{CellName, Difference, NoIndex, RankRange};
use crate::record::Measure;
use crate::stat::Ranged;
use serde::Serialize;

/// What the laps say to a claim.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Answer {
    /// It holds.
    Holds,
    /// It does not.
    DoesNot,
    /// The laps do not decide it.
    CannotBeSaid,
}

/// What a part of an answer stands on.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "said", content = "figures", rename_all = "kebab-case")]
pub enum Said {
    /// How many times better the one is than the other.
    Ratio {
        /// The difference.
        difference: Difference,
        /// The measure.
        measure: Measure,
    },
    /// A typical value.
    Value {
        /// The value, with its interval.
        value: Ranged,
        /// Whether all of it comes from one day.
        one_day: bool,
        /// Whether it stands on what is assumed of its laps.
        assumed: bool,
        /// The measure.
        measure: Measure,
    },
    /// Its ranks.
    #[serde(rename = "places")]
    Ranks {
        /// Those that it may have.
        places: RankRange,
        /// Among how many.
        among: usize,
    },
    /// Nothing, and why.
    Nothing(Unsaid),
}

/// Why nothing is said.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Unsaid {
    /// This rig has no laps of it.
    NoLaps(String),
    /// No lap of it counts.
    NoneCounts,
    /// It has so many laps that count, and no more.
    FewLaps(usize),
    /// This rig has too few laps of it for a place.
    TooFewForPlace(String),
    /// It is compared nowhere.
    ComparedNowhere,
    /// Its values have no logarithm.
    NoLogarithm,
    /// Both have no index.
    NoIndex(NoIndex),
}

/// A part of an answer.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Part {
    /// What it is of; none where it is of all workloads, weighed.
    pub of: Option<CellName>,
    /// The answer for it alone.
    pub answer: Answer,
    /// The figures.
    #[serde(flatten)]
    pub said: Said,
}

/// The answer to a claim.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Reply {
    /// The answer.
    pub answer: Answer,
    /// Its parts.
    pub parts: Vec<Part>,
    /// The nearest sentence that holds, in the grammar of claims; `None` where nothing can be said.
    pub nearest: Option<String>,
    /// Wording that misleads.
    pub cautions: Vec<Caution>,
}
