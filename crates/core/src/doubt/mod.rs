//! Doubts: named reasons why a figure may mislead, each with its evidence and what would settle it.
//!
//! A new doubt is one file with a `find`, and one line in [`doubts`].

mod other_version;

use crate::lap::LapHead;
use crate::session::{SessionName, VersionLine};

/// A reason why a workload's figures may mislead.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Doubt {
    /// Its name.
    pub name: &'static str,
    /// The workload it concerns.
    pub workload: String,
    /// What was seen, in a sentence.
    pub evidence: String,
    /// What would settle it.
    pub settle: &'static str,
}

/// What doubts are found in.
#[derive(Clone, Copy, Debug)]
pub struct Evidence<'a> {
    /// The laps whose figures are shown, counted or not.
    pub laps: &'a [LapHead],
    /// What the programs said of their version, by session.
    pub versions: &'a [(SessionName, VersionLine)],
}

/// Returns every doubt about what `evidence` shows, by workload.
pub fn doubts(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let finders = [other_version::find];
    let mut found: Vec<Doubt> = finders.iter().flat_map(|find| find(evidence)).collect();
    found.sort_by(|a, b| a.workload.cmp(&b.workload));
    found
}
