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
    /// How many verdicts beside each other share it once more, while the interval of each stands for itself: the more there
    /// are, the likelier is one by chance.
    #[serde(skip)]
    pub family: u32,
}

impl Assumptions {
    /// Returns what a comparison that stands for itself takes for granted.
    pub fn of(margin: f64) -> Self {
        Self { margin, shared_by: 1, family: 1 }
    }

    /// Returns the chances of error of an interval and of a verdict, where one that stands for itself has `alpha`.
    pub(super) fn shares(&self, alpha: f64) -> (f64, f64) {
        let own = alpha / f64::from(self.shared_by);
        (own, own / f64::from(self.family))
    }
}

impl Default for Assumptions {
    fn default() -> Self {
        Self::of(DEFAULT_MARGIN)
    }
}

/// The between-session variance of each measure, by its name: unlike measures are never pooled.
pub type BetweenByMeasure = BTreeMap<String, BetweenSessions>;
