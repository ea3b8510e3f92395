//! What is to be captured of a program's presents: which window, and from when to when.

use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// Which stream is wanted; the busiest where nothing is said.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Choice {
    /// The number of the window, counted from 1 in the order in which they first presented.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub window: Option<u32>,
    /// The file name of the program.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub program: Option<String>,
}

/// When a pass is over, where it ends by itself.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Ends {
    /// After this many frames.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub frames: Option<u64>,
    /// After this time.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub time: Option<Nanos>,
    /// It begins at a mark and not at the first frame.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub by_mark: bool,
}
