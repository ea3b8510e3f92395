//! What a source of frames is: a third one is a file beside this one, and a line in `mod.rs`.

use crate::starter::{Beside, Spools};
use honest_lap_core::record::{Outcome, RecordedPass};
use honest_lap_core::unit::Nanos;
use std::path::Path;

/// Where the frames of a lap come from. What makes one prepares it, ahead of the lap.
pub(crate) trait FrameSource {
    /// Returns the variables that the lap's program needs, on top of `own`.
    fn environment(&self, own: &[(String, String)]) -> Vec<(String, String)> {
        let _ = own;
        Vec::new()
    }

    /// Returns what looks at it beside the lap, if it is to be looked at.
    fn look(&mut self) -> Option<&mut dyn Beside> {
        None
    }

    /// Returns whether a lap that was asked to end had done its work by then.
    fn ends_well(&self) -> bool {
        false
    }

    /// Returns what came of it, once the lap has ended.
    fn finish(self: Box<Self>, lap: &Lapped<'_>) -> Option<Found>;
}

/// A lap that has ended.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Lapped<'a> {
    /// Whether it was done.
    pub(crate) done: bool,
    /// What it took.
    pub(crate) wall: Option<Nanos>,
    /// What it was.
    pub(crate) command: &'a [String],
    /// Where it ran.
    pub(crate) folder: &'a Path,
    /// What it printed.
    pub(crate) spools: &'a Spools,
}

/// What came of a source of frames.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Found {
    /// The pass, whatever came of the lap: what a program showed before it was killed was shown.
    pub(crate) pass: Option<RecordedPass>,
    /// What is not as it should be; only a lap that was done may fail by it.
    pub(crate) wrong: Option<(Outcome, String)>,
}
