//! What a report is made of.

use crate::figure::EnduranceRun;
use crate::page::form::Evidence;
use crate::sheet::{FramedWorkload, Shown};
use honest_lap_core::capacity::Searched;
use honest_lap_core::lab::Laps;
use honest_lap_core::record::{SessionPage, Study};

/// What a report is made of.
pub struct Material<'a> {
    pub study: &'a Study,
    /// The study as it is written.
    pub study_text: String,
    pub shown: &'a Shown<'a>,
    pub frames: &'a [FramedWorkload],
    pub sessions: &'a [SessionPage],
    /// Every lap, compared or not.
    pub laps: &'a Laps,
    /// The searches for a load among them.
    pub searches: &'a [Searched<'a>],
    /// The last endurance lap of each rig and variant.
    pub runs: &'a [EnduranceRun],
    /// What the page is to carry, so that it can be checked.
    pub evidence: Option<Evidence>,
    pub stamp: String,
}
