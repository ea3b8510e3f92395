//! What the counted parts of a lap took: power and meters while they ran, and not while the rest did.

use super::trace::{MeterSum, QuantitySummary};
use serde::{Deserialize, Serialize};

/// Power over the counted parts of a lap, by the looks that fell into them.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct CountedPower {
    /// How long the counted parts took, in seconds.
    pub seconds: f64,
    /// How many looks fell into them.
    pub looks: u32,
    /// Power of what can be measured from inside, in watts; none of fewer than two looks.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_w: Option<QuantitySummary>,
    /// Outside meters, likewise.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub meters: Vec<MeterSum>,
}
