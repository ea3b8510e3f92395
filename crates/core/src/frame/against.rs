//! What a pass is held against.

use super::Display;
use serde::{Deserialize, Serialize};

/// The display that frames are shown on, and the rate of what is played.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Against {
    /// The display, where the study states one.
    #[serde(default)]
    pub display: Option<Display>,
    /// Frames a second of the source, where a recording is played.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plays_at: Option<f64>,
}

impl Against {
    /// Returns a display alone.
    pub fn display(hz: f64) -> Self {
        Self { display: Some(Display { hz }), plays_at: None }
    }
}
