//! Passes as they are shown.

use honest_lap_core::lab::Limited;
use honest_lap_core::record::{Digest, LapName, Measure, RecordedPass, Settings};
use honest_lap_core::unit::Nanos;

/// A pass, as it is counted.
pub struct ShownPass {
    pub lap: LapName,
    pub settings: Settings,
    pub set_aside: bool,
    pub warm_up: bool,
    pub digest: Digest,
    pub recorded: RecordedPass,
    /// What the machine did meanwhile, as far as it is known.
    pub conditions: Vec<(Measure, f64)>,
    /// What limited it, and how long it took.
    pub limited: Option<(Nanos, Limited)>,
}

impl ShownPass {
    /// Returns whether it counts.
    pub fn counts(&self) -> bool {
        !self.set_aside && !self.warm_up
    }

    pub(super) fn condition(&self, name: &str) -> Option<f64> {
        self.conditions.iter().find(|(measure, _)| measure.name == name).map(|(_, value)| *value)
    }
}

/// The passes of a workload.
pub struct FramedWorkload {
    pub name: String,
    pub about: Option<String>,
    pub passes: Vec<ShownPass>,
}
