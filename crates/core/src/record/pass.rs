//! A pass frame by frame, what it is held against, and what is kept beside its frames.

use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// A pass frame by frame, in whole nanoseconds.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Pass {
    /// How long each frame was shown, above zero.
    pub shown: Vec<u64>,
    /// How long the processor was busy with each; empty where unknown, 0 for a frame that is.
    pub processor: Vec<u64>,
    /// How long the graphics card was busy with each, likewise.
    pub graphics: Vec<u64>,
    /// How long the call took by which each frame was presented, likewise.
    pub presenting: Vec<u64>,
}

/// What a log held that is no frame time. None of it reaches a sum.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Faults {
    /// Rows without a value.
    pub missing: u64,
    /// Values that are no number: words, NaN, infinities.
    pub not_numbers: u64,
    /// Frame times below zero.
    pub negative: u64,
    /// Frame times of zero.
    pub zero: u64,
    /// Moments that stood there twice.
    pub repeated: u64,
    /// Moments earlier than the one before.
    pub backward: u64,
    /// Times at which the counter began anew, and was corrected.
    pub wrapped: u64,
    /// Rows cut short at the end of the file.
    pub truncated: u64,
    /// Frames that were presented and could not be recorded.
    pub dropped: u64,
}

impl Faults {
    /// Returns what there was, in words; empty where there was nothing.
    pub fn words(&self) -> Vec<String> {
        let of = |count: u64, one: &str, many: &str| match count {
            0 => None,
            1 => Some(format!("1 {one}")),
            n => Some(format!("{n} {many}")),
        };
        [
            of(self.missing, "row without a value", "rows without a value"),
            of(self.not_numbers, "value that is no number", "values that are no numbers"),
            of(self.negative, "negative frame time", "negative frame times"),
            of(self.zero, "frame time of zero", "frame times of zero"),
            of(self.repeated, "repeated moment", "repeated moments"),
            of(self.backward, "moment out of order", "moments out of order"),
            of(self.truncated, "row cut short at the end", "rows cut short at the end"),
            of(
                self.dropped,
                "frame that could not be recorded",
                "frames that could not be recorded",
            ),
        ]
        .into_iter()
        .flatten()
        .collect()
    }
}

/// A place in a pass with a name.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Mark {
    /// The frame that follows it, from 0.
    pub frame: u64,
    /// Its name.
    pub name: String,
}

/// A display's rate.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Display {
    /// Refreshes a second.
    pub hz: f64,
}

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

/// A stretch of a pass, in time from its beginning.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Stretch {
    /// Where it begins.
    pub from: Nanos,
    /// Where it ends; the frame that begins here is no longer in it.
    pub to: Nanos,
}
