//! The answer to a claim: whether it holds, with the figures that say so.

use super::sentence::Caution;
use crate::judge::{Difference, NoIndex, Places};
use crate::record::Measure;
use crate::stat::Interval;

/// What the laps say to a claim.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Answer {
    /// It holds.
    Holds,
    /// It does not.
    DoesNot,
    /// The laps do not decide it.
    CannotBeSaid,
}

/// What a part of an answer stands on.
#[derive(Clone, Debug, PartialEq)]
pub enum Said {
    /// How many times better the one is than the other.
    Ratio(Difference, Measure),
    /// A typical value, its interval, and whether all of it comes from one day.
    Value(f64, Interval, bool, Measure),
    /// Its places among this many.
    Places(Places, usize),
    /// Nothing, and why.
    Nothing(Unsaid),
}

/// Why nothing is said.
#[derive(Clone, Debug, PartialEq, Eq)]
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
#[derive(Clone, Debug, PartialEq)]
pub struct Part {
    /// What it is of: a workload with its settings, or all of them.
    pub of: String,
    /// The answer for it alone.
    pub answer: Answer,
    /// The figures.
    pub said: Said,
}

/// The answer to a claim.
#[derive(Clone, Debug, PartialEq)]
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
