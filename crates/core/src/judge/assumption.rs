//! What is taken for granted where the laps do not say: the margin, and how far days differ.

use crate::estimate::BetweenSessions;
use crate::record::DEFAULT_MARGIN;
use serde::Serialize;
use std::collections::BTreeMap;

/// What a judgement takes for granted, printed beside it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Assumptions {
    /// How close counts as the same, as a fraction.
    pub margin: f64,
    /// How many comparisons share the chance of error (Bonferroni): 1, unless any of several would
    /// do to refute what is said of all.
    #[serde(skip)]
    pub shared_by: u32,
}

impl Assumptions {
    /// Returns what a comparison that stands for itself takes for granted.
    pub fn of(margin: f64) -> Self {
        Self { margin, shared_by: 1 }
    }
}

impl Default for Assumptions {
    fn default() -> Self {
        Self::of(DEFAULT_MARGIN)
    }
}

/// The between-session variance of each measure, by its name: unlike measures are never pooled.
pub type BetweenByMeasure = BTreeMap<String, BetweenSessions>;
