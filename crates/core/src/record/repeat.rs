//! An endurance lap: what its workload says of it, and its repetitions.

use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// What a workload says of an endurance lap.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct EnduranceRule {
    /// For how long it is run.
    pub lasts: Nanos,
    /// Time between two looks at the machine.
    pub look_every: Nanos,
    /// Whether it is run on the battery, and refused on mains.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub on_battery: bool,
    /// Whether nothing is run, and the machine is left idle.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub idle: bool,
}

/// One repetition of a task within an endurance lap.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Repeat {
    /// When it began, since the lap did.
    pub began: Nanos,
    /// How long it took, from start to reap.
    pub took: Nanos,
}
