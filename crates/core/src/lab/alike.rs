//! What laps have in common that differ in nothing but their number, their round and their time.

use super::facts::{KnownLap, LapFacts};
use crate::record::{LapHead, Outcome, Reading, Yield};
use crate::unit::Nanos;
use std::sync::Arc;

/// What laps that are alike have in common.
#[derive(Clone, Debug, PartialEq)]
pub struct Alike {
    /// Whether a time was taken from start to reap.
    pub(super) is_timed: bool,
    /// Whether nothing but their times is known of them.
    is_bare: bool,
    /// Whether they only warm up.
    pub warm_up: bool,
    /// What came of them.
    pub outcome: Outcome,
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// The step in which their time was read by hand.
    pub step: Option<Nanos>,
    /// What else was read from them.
    pub readings: Vec<Reading>,
    /// Why a person has set them aside, if one has.
    pub set_aside: Option<String>,
    /// What else is known of them.
    pub facts: Arc<LapFacts>,
}

impl Alike {
    /// Returns what `lap` has in common with others.
    pub(super) fn of(lap: KnownLap) -> Self {
        let LapHead { warm_up, outcome, wall, parts, step, readings, set_aside, .. } = lap.head;
        let (is_timed, facts) = (wall.is_some(), lap.facts);
        // Asked for by every doubt.
        let is_bare = readings.is_empty() && facts.says_nothing();
        Self { is_timed, is_bare, warm_up, outcome, parts, step, readings, set_aside, facts }
    }

    /// Returns whether laps of which each says this are alike.
    pub(super) fn is(&self, other: &Self) -> bool {
        let facts = || Arc::ptr_eq(&self.facts, &other.facts) || self.facts == other.facts;
        let plain =
            |alike: &Self| (alike.is_timed, alike.warm_up, alike.outcome, alike.parts, alike.step);
        plain(self) == plain(other)
            && self.readings == other.readings
            && self.set_aside == other.set_aside
            && facts()
    }

    /// Returns what sums read of one of them that took `wall`.
    pub(super) fn yields(&self, wall: Option<Nanos>) -> Yield<'_> {
        Yield {
            warm_up: self.warm_up,
            is_set_aside: self.set_aside.is_some(),
            outcome: self.outcome,
            wall,
            parts: self.parts,
            step: self.step,
            readings: &self.readings,
        }
    }

    /// Returns whether nothing but their times is known of them: then no fact says anything, however long they took.
    pub fn is_bare(&self) -> bool {
        self.is_bare
    }
}
