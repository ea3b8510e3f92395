//! How far two cells lie apart where they have no ratio.

use crate::stat::Interval;
use serde::Serialize;

/// How far two cells lie apart, a lap, in the measure's own unit.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Apart {
    /// What the baseline has in the mean.
    pub base: f64,
    /// What this one has.
    pub here: f64,
    /// The 95 % interval of this one less the baseline; `None` for a single lap.
    pub interval: Option<Interval>,
}
