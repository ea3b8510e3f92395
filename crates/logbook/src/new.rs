//! What is to be written down: sessions and laps as the caller has them.

use honest_lap_core::record::{
    LapBody, LapName, Outcome, RigFound, SessionAbout, SessionName, Settings, Task, VersionLine,
};
use honest_lap_core::unit::Nanos;

/// A session about to begin.
#[derive(Clone, Debug)]
pub struct NewSession<'a> {
    /// The rig.
    pub rig: &'a str,
    /// What marks its processes and tells it from every other session anywhere.
    pub mark: &'a str,
    /// When it begins, RFC 3339.
    pub started: &'a str,
    /// The seed of its order.
    pub seed: u64,
    /// The version of the tool.
    pub tool: &'a str,
    /// The machine as found.
    pub found: &'a RigFound,
    /// What the workloads' programs say of their version.
    pub versions: &'a [VersionLine],
    /// What else is known of it.
    pub about: &'a SessionAbout,
}

/// A session that is written to. It is held by its mark, which nothing changes: a merge meanwhile may give the
/// session another name, and its laps still are its own.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OpenSession {
    /// What it was called when it was begun or found.
    pub name: SessionName,
    pub(crate) mark: String,
}

impl OpenSession {
    /// Returns what tells it from every other session anywhere.
    pub fn mark(&self) -> &str {
        &self.mark
    }

    /// Returns the name of its lap `number`.
    pub fn lap(&self, number: u32) -> LapName {
        LapName { session: self.name.clone(), number }
    }
}

/// A lap that has ended.
#[derive(Clone, Copy, Debug)]
pub struct NewLap<'a> {
    /// Its number in its session.
    pub number: u32,
    /// Its workload.
    pub workload: &'a str,
    /// What its workload's task was.
    pub task: &'a Task,
    /// Its variant.
    pub settings: &'a Settings,
    /// Its round.
    pub round: u32,
    /// Whether it only warms up.
    pub warm_up: bool,
    /// What came of it.
    pub outcome: Outcome,
    /// Time from start to reap, if it was started.
    pub wall: Option<Nanos>,
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// The step in which its time was read by hand.
    pub step: Option<Nanos>,
    /// The rest.
    pub body: &'a LapBody,
}
