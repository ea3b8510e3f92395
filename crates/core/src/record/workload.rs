//! A workload: one real task, with all the settings that define it.

use crate::record::{
    Kind, ModeRule, ReadingRule, Settings, Splits, Telling, Template, Work, variants,
};
use crate::unit::{Decimals, Nanos};
use serde::{Deserialize, Serialize};
use std::sync::Arc;

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

/// What a pattern of a study may come to once it is compiled, in bytes: what is larger takes its time at every character.
pub const MOST_PATTERN_BYTES: usize = 1 << 20;

/// What makes a lap the lap it is: two laps with equal tasks and settings did the same work.
#[derive(Clone, Debug, PartialEq)]
pub struct Task {
    /// What a lap yields, with what that kind alone has.
    pub kind: Kind,
    /// The timed command; `None` where people do the work and time it.
    pub command: Option<Launch>,
    /// What is to be done, where people do it.
    pub by_hand: Option<String>,
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
    /// Whether each lap gets a terminal of its own, to which its output and its errors go.
    pub terminal: bool,
    /// Exit codes that mean the work was done.
    pub exit_codes: Vec<i32>,
    /// What a lap must have produced.
    pub produces: Vec<Product>,
    /// How much work one lap does.
    pub work: Option<Work>,
    /// What is read from every lap.
    pub readings: Vec<ReadingRule>,
    /// How it is divided into parts.
    pub splits: Option<Splits>,
    /// Whether the first lap after `before` fills a cache, so that cold and warm laps differ.
    pub fills_cache: bool,
}

impl Task {
    /// Returns the task that only runs `command`, with nothing around it.
    pub fn of(command: Launch) -> Self {
        Self {
            kind: Kind::Task,
            command: Some(command),
            by_hand: None,
            before: Vec::new(),
            after: Vec::new(),
            folder: None,
            environment: Vec::new(),
            stdin: None,
            terminal: false,
            exit_codes: vec![0],
            produces: Vec::new(),
            work: None,
            readings: Vec::new(),
            splits: None,
            fills_cache: false,
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
    /// Which combinations are meant, each by settings of it; all of them if empty.
    pub only: Vec<Settings>,
    /// Counted laps of each variant in a session.
    pub laps: u32,
    /// Warm-up laps of each variant in a session.
    pub warm_up: u32,
    /// Rest between laps.
    pub rest: Rest,
    /// A lap that takes longer is ended and recorded as over its limit.
    pub limit: Nanos,
    /// Commands whose first output line is recorded with every session.
    pub versions: Vec<(String, Launch)>,
    /// Where its program tells how it is set, which is recorded with every lap.
    pub modes: Vec<ModeRule>,
    /// Files that it produces which are pictures of the same, as the study names them, with how far two of them may lie apart.
    pub same_pictures: Vec<(String, f64)>,
    /// Files that it works on, whose checksums are recorded with every session.
    pub inputs: Vec<Template>,
    /// Whether the files a lap leaves in its own folder are kept.
    pub keep: bool,
    /// How much it weighs in an index; 0 leaves it out.
    pub weight: f64,
    /// The group of workloads that it belongs to, such as games.
    pub group: Option<String>,
    /// How often it is done in a month, for what a faster machine would save.
    pub jobs_a_month: Option<f64>,
    /// By how much its laps differ, as the lab states it where they are too few to show it: a standard deviation, of logs.
    pub assume_cv: Option<f64>,
}

/// An outside meter: a command that prints a number a line.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Meter {
    /// Its name.
    pub name: String,
    /// The command.
    pub command: Launch,
    /// The unit of its numbers.
    pub unit: String,
    /// How their decimals are told.
    pub decimals: Decimals,
}

/// The setting that tells cold laps from warm ones.
pub const CACHE: &str = "cache";
/// A lap that finds nothing in the cache: it comes straight after the steps of `before`.
pub const COLD: &str = "cold";
/// A lap that finds the cache as the lap before it left it.
pub const WARM: &str = "warm";

/// The rest between two laps, not counted.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Rest {
    /// How long; with a temperature, how long at least.
    pub time: Nanos,
    /// Until the hottest sensor shows this at most, in °C.
    pub below_c: Option<f64>,
    /// How long that is waited for.
    pub at_most: Nanos,
}

impl Rest {
    /// Returns the rest of a fixed time.
    pub fn of(time: Nanos) -> Self {
        Self { time, below_c: None, at_most: time }
    }
}

impl Workload {
    /// Returns every variant, in the study's order; the first is the baseline of the others.
    ///
    /// Where a lap fills a cache, each variant comes cold and then warm; where some combinations are meant, the others are
    /// no variants.
    pub fn variants(&self) -> Vec<Settings> {
        let cache = (CACHE.to_owned(), vec![COLD.to_owned(), WARM.to_owned()]);
        let mut all = match self.task.fills_cache {
            true => variants(&[&self.vary[..], &[cache]].concat()),
            false => variants(&self.vary),
        };
        let is_meant = |settings: &Settings| self.only.iter().any(|some| settings.has_all(some));
        all.retain(|settings| self.only.is_empty() || is_meant(settings));
        let telling = Arc::new(self.telling());
        all.into_iter().map(|settings| settings.told(&telling)).collect()
    }

    /// Returns how its variants are told.
    pub fn telling(&self) -> Telling {
        Telling::of(&self.vary)
    }

    /// Returns how many variants follow each other in a fixed order: 2 where each comes cold and
    /// then warm.
    pub fn block(&self) -> usize {
        if self.task.fills_cache { 2 } else { 1 }
    }
}
