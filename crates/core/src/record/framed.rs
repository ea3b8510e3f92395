//! The frames of a lap: where they come from, and what they are held against.

use crate::record::{Choice, Display, Ends, Source};
use serde::{Deserialize, Serialize};

/// Where a program that draws frames writes down how long they took.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct FrameLog {
    /// What is read: its output or errors, or a file once the lap has ended.
    pub source: Source,
    /// The column of frame times, by place or heading; without one it is found.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub column: Option<String>,
    /// Its unit; without one it is found.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<String>,
    /// Whether its numbers are `durations` or `moments`; without it that is found.
    #[serde(default, rename = "as", skip_serializing_if = "Option::is_none")]
    pub reading: Option<String>,
    /// The column of the processor's busy times.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub processor: Option<String>,
    /// The column of the graphics card's busy times.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub graphics: Option<String>,
}

/// Frames that are noted as the program presents them.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Presented {
    /// Which of its windows.
    #[serde(flatten)]
    pub choice: Choice,
    /// When the pass is over.
    #[serde(flatten)]
    pub ends: Ends,
}

/// The frames of a lap: where they come from, and what they are held against.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Framed {
    /// Where they come from; none where there are none, or their logs are imported.
    pub source: Option<FrameSource>,
    /// The rate of what is played.
    pub plays_at: Option<f64>,
    /// The display that they are held against.
    pub display: Option<Display>,
}

/// Where frame times come from.
#[derive(Clone, Debug, PartialEq)]
pub enum FrameSource {
    /// What the program writes down.
    Log(FrameLog),
    /// What it presents, noted as it does.
    Presented(Presented),
}
