//! A workload: one real task, with all the settings that define it.

use crate::template::Template;
use crate::time::Nanos;
use crate::unit::Amount;
use crate::variant::{Settings, variants};
use serde::{Deserialize, Serialize};

/// What a lap of a workload yields.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    /// The time to do one piece of work.
    Task,
}

/// How a program is started.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Launch {
    /// Started as it is: the program, then its arguments.
    Direct(Vec<Template>),
    /// Handed to `sh -c`.
    Shell(Template),
}

impl Launch {
    /// Returns every template of the command.
    pub fn templates(&self) -> &[Template] {
        match self {
            Self::Direct(words) => words,
            Self::Shell(line) => std::slice::from_ref(line),
        }
    }
}

/// Something a lap must have produced, or it does not count.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Product {
    /// The file that must be there.
    pub file: Template,
    /// Its least size in bytes.
    pub at_least: Option<u64>,
    /// Its SHA-256, in lower-case hexadecimal.
    pub sha256: Option<String>,
    /// A command that must succeed.
    pub check: Option<Launch>,
}

/// What makes a lap the lap it is: two laps with equal tasks and settings did the same work.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Task {
    /// What a lap yields.
    pub kind: Kind,
    /// The timed command.
    pub command: Launch,
    /// Untimed steps ahead of every lap.
    pub before: Vec<Launch>,
    /// Untimed steps behind every lap.
    pub after: Vec<Launch>,
    /// Working folder; the study's own if there is none.
    pub folder: Option<Template>,
    /// Environment on top of the tool's own, sorted by name.
    pub environment: Vec<(String, Template)>,
    /// A file given afresh to every lap as its standard input.
    pub stdin: Option<Template>,
    /// Exit codes that mean the work was done.
    pub exit_codes: Vec<i32>,
    /// What a lap must have produced.
    pub produces: Vec<Product>,
    /// How much work one lap does.
    pub work: Option<Amount>,
}

impl Task {
    /// Returns the task that only runs `command`, with nothing around it.
    pub fn of(command: Launch) -> Self {
        Self {
            kind: Kind::Task,
            command,
            before: Vec::new(),
            after: Vec::new(),
            folder: None,
            environment: Vec::new(),
            stdin: None,
            exit_codes: vec![0],
            produces: Vec::new(),
            work: None,
        }
    }
}

/// A workload as its study writes it.
#[derive(Clone, Debug, PartialEq)]
pub struct Workload {
    /// Its name.
    pub name: String,
    /// What it is, in a sentence.
    pub about: Option<String>,
    /// What defines it.
    pub task: Task,
    /// The varied settings and their values, in the study's order.
    pub vary: Vec<(String, Vec<String>)>,
    /// Counted laps of each variant in a session.
    pub laps: u32,
    /// Warm-up laps of each variant in a session.
    pub warm_up: u32,
    /// Rest between laps.
    pub rest: Nanos,
    /// A lap that takes longer is ended and recorded as over its limit.
    pub limit: Nanos,
    /// Commands whose first output line is recorded with every session.
    pub versions: Vec<(String, Launch)>,
    /// Whether the files a lap leaves in its own folder are kept.
    pub keep: bool,
}

impl Workload {
    /// Returns every variant, in the study's order; the first is the baseline of the others.
    pub fn variants(&self) -> Vec<Settings> {
        variants(&self.vary)
    }
}
