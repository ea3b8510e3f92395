//! A lap of the made-up lab.

use crate::recorded_passes::RecordedFlight;
use honest_lap_core::capacity::SearchLap;
use honest_lap_core::record::{Outcome, Repeat, Settings, Traces};
use honest_lap_core::unit::Nanos;

/// One made-up lap.
#[derive(Clone, Debug)]
pub struct RecordedLap {
    /// The workload.
    pub workload: &'static str,
    /// The variant.
    pub settings: Settings,
    /// Its round.
    pub round: u32,
    /// Whether it only warms up.
    pub warm_up: bool,
    /// What came of it.
    pub outcome: Outcome,
    /// Why, if it was not done.
    pub reason: Option<String>,
    /// Its time.
    pub wall: Nanos,
    /// Threads that worked.
    pub threads: u32,
    /// The conditions it is said to have been run under, sample by sample.
    pub traces: Traces,
    /// Its frames, where it is a pass.
    pub flight: Option<RecordedFlight>,
    /// The place of its load and what came of it, where it is a lap of a search.
    pub load: Option<SearchLap>,
    /// The repetitions of its task, where it is an endurance lap.
    pub repeats: Vec<Repeat>,
}

impl RecordedLap {
    /// Returns the counted lap of a first round that was done on one thread in `wall`, and nothing else of note.
    pub(crate) fn done(workload: &'static str, settings: Settings, wall: Nanos) -> Self {
        Self {
            workload,
            settings,
            round: 1,
            warm_up: false,
            outcome: Outcome::Done,
            reason: None,
            wall,
            threads: 1,
            traces: Traces::default(),
            flight: None,
            load: None,
            repeats: Vec::new(),
        }
    }
}
