//! What a pass comes to: plain figures, worked out by `frame`.

use super::cut::Cut;
use super::pass::{Against, Faults, Mark};
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// Everything about a pass besides its frames: where they come from, and what they come to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PassAbout {
    /// The log, as it was named.
    pub log: String,
    /// The SHA-256 of the log in hexadecimal, where the log was a file of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub log_sha256: Option<String>,
    /// How it was read, in a sentence.
    pub read_as: String,
    /// What it held besides frame times.
    #[serde(default)]
    pub faults: Faults,
    /// Named places.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub marks: Vec<Mark>,
    /// What else was presented while it was captured, and is not in it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<String>,
    /// What the frames come to.
    pub digest: Digest,
}

/// What a pass comes to under one cut: kept, so that no comparison reads the frames again. It is a copy of what
/// the frames say: one that another version worked out is worked out again when it is read.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Digest {
    /// The version of the way in which it was worked out.
    #[serde(default = "first", skip_serializing_if = "is_first")]
    pub version: u32,
    /// What is left out.
    #[serde(default, skip_serializing_if = "Cut::is_empty")]
    pub cut: Cut,
    /// What it is held against.
    #[serde(flatten)]
    pub against: Against,
    /// The sums.
    pub sums: Sums,
    /// How it went on that display.
    pub paced: Option<Paced>,
    /// How it held the rate of what was played.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub played: Option<Played>,
    /// What pins its rate.
    pub cap: Option<Cap>,
    /// What its work would allow.
    pub busy: Option<Busy>,
}

fn first() -> u32 {
    1
}

fn is_first(version: &u32) -> bool {
    *version == first()
}

impl Digest {
    /// The version of the way in which passes are worked out now. It grows with every change of a figure.
    pub const VERSION: u32 = 3;

    /// Returns whether it was worked out as passes are now.
    pub fn is_current(&self) -> bool {
        self.version == Self::VERSION
    }
}

/// What the frames of a pass come to. Frame times are in seconds, rates in frames a second.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Sums {
    /// How many frames.
    pub frames: u64,
    /// Their time.
    pub time: Nanos,
    /// Frames over time.
    pub rate: f64,
    /// Median frame time.
    pub median: f64,
    /// 95th percentile frame time; from 20 frames on.
    pub p95: Option<f64>,
    /// 99th percentile frame time; from 100 frames on.
    pub p99: Option<f64>,
    /// 99.9th percentile frame time; from 1,000 frames on.
    pub p99_9: Option<f64>,
    /// The rate at the 99th percentile frame time; from 1,000 frames on.
    pub low_1: Option<f64>,
    /// The rate at the 99.9th percentile frame time; from 10,000 frames on.
    pub low_01: Option<f64>,
    /// The rate of the slowest 1 %, by number; from 1,000 frames on.
    pub slowest_1: Option<f64>,
    /// The longest frame time.
    pub worst: f64,
    /// Mean absolute difference between a frame time and the next; of one frame there is none.
    pub change: Option<f64>,
    /// Standard deviation of the frame times over their mean; of one frame there is none.
    pub cv: Option<f64>,
    /// Frames that stand out.
    pub hitches: u64,
    /// The time that they took beyond the median of their surroundings.
    pub lost: Nanos,
}

/// A pass against a display.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Paced {
    /// The share of the time that went by in frames longer than the budget.
    pub over: f64,
    /// Refreshes at which nothing new was there to show.
    pub missed: u64,
    /// The share of frames that let no refresh go by.
    pub on_time: f64,
}

/// A pass against the rate of its source.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Played {
    /// Frames that the source has in the time that was played.
    pub due: u64,
    /// Frames that came after their turn, and within half a second.
    pub late: u64,
    /// Frames that never came.
    pub dropped: u64,
}

impl Played {
    /// Returns both together.
    pub fn plus(self, other: Self) -> Self {
        Self {
            due: self.due + other.due,
            late: self.late + other.late,
            dropped: self.dropped + other.dropped,
        }
    }

    /// Returns the share of due frames that came in their turn.
    pub fn on_time(&self) -> f64 {
        (self.due - self.late - self.dropped) as f64 / self.due as f64
    }
}

/// A rate that is pinned.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Cap {
    /// The rate, in Hz.
    pub hz: f64,
    /// How many refreshes most frames took.
    pub refreshes: u32,
    /// The share of frames that took a whole number of refreshes, or lie in stretches under the limiter.
    pub share: f64,
    /// Whether the study states the display's rate; otherwise it is one that displays often have.
    pub stated: bool,
    /// Whether it is a limiter's rate, which keeps a schedule of its own, and not a display's.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub limiter: bool,
}

/// The work behind the frames, where a log tells it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Busy {
    /// Frames whose work is known.
    pub frames: u64,
    /// Whether the processor's part of it is.
    pub processor: bool,
    /// Whether the graphics card's part of it is.
    pub graphics: bool,
    /// The rate that the work alone would allow, in frames a second.
    pub rate: f64,
    /// The share of the frames' time in which the processor was busy with them, where its part is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub processor_share: Option<f64>,
    /// The share in which the graphics card was, likewise.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub graphics_share: Option<f64>,
    /// What would come of other rates.
    pub at: Vec<HoldsRate>,
}

/// What would come of a display's rate.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct HoldsRate {
    /// The rate, in Hz.
    pub hz: f64,
    /// The share of frames whose work takes longer than the budget.
    pub missed: f64,
    /// The share of the budget that is left at the 99th percentile; below 0 the rate is not held.
    pub spare: f64,
}
