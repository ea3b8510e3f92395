//! What judging needs to know besides the laps.

use super::assumption::BetweenByMeasure;
use crate::lab::{AllBeside, CellTraits};
use crate::record::{LapName, Peak, SessionName, Settings, Unsupported, Work};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// Which way a comparison looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Direction {
    /// Rigs against each other.
    Rigs,
    /// Variants against each other, each rig for itself.
    Variants,
}

/// What is asked of the laps.
#[derive(Clone, Debug, Default)]
pub struct Ask {
    /// Rigs in the order in which they serve as baseline; those not named follow by name.
    pub rig_order: Vec<String>,
    /// Variants in the study's order, by workload; those not named follow by text.
    pub variant_order: BTreeMap<String, Vec<Settings>>,
    /// The form of each workload's task that is compared; without an entry, the latest.
    pub tasks: BTreeMap<String, u32>,
    /// Which ways to look; empty means every way in which there is something to compare.
    pub directions: Vec<Direction>,
    /// How close counts as the same, as a fraction.
    pub margin: f64,
    /// Workloads that are not about their time.
    pub untimed: BTreeSet<String>,
    /// Workloads with the names of their laps' parts.
    pub parts: BTreeSet<(String, String)>,
    /// The measures that are compared; empty means all.
    pub measures: Vec<String>,
    /// Sessions that ended when their laps looked precise enough.
    pub looked: BTreeSet<SessionName>,
    /// What each rig cannot do.
    pub unsupported: BTreeMap<String, Vec<Unsupported>>,
    /// What cells were run under, and what they came to.
    pub traits: CellTraits,
    /// What stands beside the figures of cells.
    pub beside: AllBeside,
    /// The cells whose passes keep to a cap.
    pub capped: BTreeSet<(String, String, Settings)>,
    /// The workloads of which what lies under the cap is compared: their passes tell it.
    pub by_work: BTreeSet<String>,
    /// The names of the loads of each workload, where they have names.
    pub steps: BTreeMap<String, Vec<String>>,
    /// How much work a lap of each workload does, where that is known.
    pub works: BTreeMap<String, Work>,
    /// What each rig could do at most, on paper.
    pub peaks: BTreeMap<String, Vec<Peak>>,
    /// Why laps failed, as a person saw it or as the tool did.
    pub reasons: HashMap<LapName, String>,
    /// Whether cells that are not comparable are compared anyway.
    pub despite: bool,
    /// The session whose day each session shares; one that has no entry is a day of its own.
    pub days: BTreeMap<SessionName, SessionName>,
    /// Sessions whose values were typed in: those of one day are one, however often somebody typed.
    pub typed: BTreeSet<SessionName>,
    /// By how much sessions differ, as the lab states it: a standard deviation, of logs.
    pub stated_between: Option<f64>,
    /// By how much laps of a workload differ, as the lab states it: a standard deviation, of logs.
    pub stated_spread: BTreeMap<String, f64>,
    /// The between-session variance of measures that is known from more laps than these.
    pub between: BetweenByMeasure,
}

impl Ask {
    /// Returns the session whose day `session` shares.
    pub(super) fn day<'a>(&'a self, session: &'a SessionName) -> &'a SessionName {
        self.days.get(session).unwrap_or(session)
    }

    /// Returns the session that `session` is counted as.
    pub(super) fn counted_as<'a>(&'a self, session: &'a SessionName) -> &'a SessionName {
        if self.typed.contains(session) { self.day(session) } else { session }
    }
}
