//! Records as a reader has them: a session with its counts, a lap in full, a form of a task.

use super::lap::{LapBody, LapHead};
use super::outcome::Outcome;
use super::session::SessionRecord;
use super::workload::Task;
use std::collections::BTreeMap;

/// A session, and how many of its laps came to what.
#[derive(Clone, Debug, PartialEq)]
pub struct SessionPage {
    /// What was written down at its beginning.
    pub record: SessionRecord,
    /// Counted laps: done, and no warm-up.
    pub counted: usize,
    /// Warm-up laps that were done.
    pub warm_up: usize,
    /// Laps that were done and that a person has set aside.
    pub set_aside: usize,
    /// Laps that were not done, by outcome.
    pub not_done: BTreeMap<Outcome, usize>,
    /// The workloads run, by name.
    pub workloads: Vec<String>,
}

/// A lap in full.
#[derive(Clone, Debug, PartialEq)]
pub struct LapPage {
    /// What it is of and what came of it.
    pub head: LapHead,
    /// Everything else.
    pub body: LapBody,
    /// The form of the workload's task it was run under.
    pub task: Task,
}

/// A form of a workload's task.
#[derive(Clone, Debug, PartialEq)]
pub struct TaskForm {
    /// Its number, as laps refer to it.
    pub id: u32,
    /// The workload.
    pub workload: String,
    /// When a lap of it was last run, RFC 3339; `None` if none was.
    pub last_driven: Option<String>,
    /// The form.
    pub task: Task,
}
