//! A workload: one real task, with all the settings that define it.

use crate::record::{
    Against, Better, Choice, Display, Ends, EnduranceRule, LoadRule, Measure, SECONDS, Settings,
    Template, Work, variants,
};
use crate::unit::{Decimals, Nanos, seconds_in};
use serde::{Deserialize, Serialize};

/// What a lap of a workload yields.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    /// The time to do one piece of work.
    Task,
    /// Numbers that the program itself reports.
    Score,
    /// A series of frame times.
    Frames,
    /// The largest load that still holds.
    Capacity,
    /// A rate over a long time.
    Endurance,
}

impl Kind {
    /// Returns whether a lap of it is about something else than its time.
    pub fn is_untimed(self) -> bool {
        self != Self::Task
    }
}

/// Where a program that draws frames writes down how long they took.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct FrameLog {
    /// What is read: its output or errors, or a file once the lap has ended.
    pub source: Source,
    /// The column of frame times, by place or heading; without one it is found.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub column: Option<String>,
    /// Its unit; without one it is found.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<String>,
    /// Whether its numbers are `durations` or `moments`; without it that is found.
    #[serde(default, rename = "as", skip_serializing_if = "Option::is_none")]
    pub reading: Option<String>,
    /// The column of the processor's busy times.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub processor: Option<String>,
    /// The column of the graphics card's busy times.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub graphics: Option<String>,
}

/// Frames that are noted as the program presents them.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Presented {
    /// Which of its windows.
    #[serde(flatten)]
    pub choice: Choice,
    /// When the pass is over.
    #[serde(flatten)]
    pub ends: Ends,
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

/// Where a number is to be found.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Find {
    /// The number that follows this text, in the same line.
    After(String),
    /// What the group of this regular expression catches in a line.
    Pattern(String),
    /// What this JSON pointer (RFC 6901) leads to.
    Pointer(String),
    /// Only eyes can read it: it is entered by hand.
    Eyes,
}

/// What is read.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Source {
    /// Standard output.
    Output,
    /// Standard error.
    Errors,
    /// A file, once the lap has ended.
    File(Template),
}

/// A number to be read from every lap.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ReadingRule {
    /// The measure's name.
    pub name: String,
    /// Its unit as printed; times are turned into seconds.
    pub unit: String,
    /// Which way is better.
    pub better: Better,
    /// Where it is.
    pub source: Source,
    /// How it is found there.
    pub find: Find,
    /// How its decimals are told.
    pub decimals: Decimals,
    /// Whether it is the program's own report of the lap's time.
    pub reports_time: bool,
}

impl ReadingRule {
    /// Returns the measure that it yields.
    pub fn measure(&self) -> Measure {
        let time = seconds_in(&self.unit).is_some();
        let unit = if time { SECONDS.to_owned() } else { self.unit.clone() };
        Measure { name: self.name.clone(), unit, better: self.better }
    }
}

/// A named part of a lap.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct SplitRule {
    /// The part's name.
    pub part: String,
    /// The line at which it begins, as a regular expression; without one it begins with the lap.
    pub from: Option<String>,
}

/// How a lap is divided into parts.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Splits {
    /// The parts, in order: each ends where the next begins, the last with the lap.
    pub parts: Vec<SplitRule>,
    /// Where the lines are: the lap's output, or a file that it appends to.
    pub source: Source,
    /// The parts that are the lap's time; empty means all of it.
    pub counts: Vec<String>,
}

/// What makes a lap the lap it is: two laps with equal tasks and settings did the same work.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Task {
    /// What a lap yields.
    pub kind: Kind,
    /// The timed command; `None` where people do the work and time it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub command: Option<Launch>,
    /// What is to be done, where people do it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
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
    /// Exit codes that mean the work was done.
    pub exit_codes: Vec<i32>,
    /// What a lap must have produced.
    pub produces: Vec<Product>,
    /// How much work one lap does.
    pub work: Option<Work>,
    /// What is read from every lap.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub readings: Vec<ReadingRule>,
    /// How it is divided into parts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub splits: Option<Splits>,
    /// Whether the first lap after `before` fills a cache, so that cold and warm laps differ.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub fills_cache: bool,
    /// Where its frame times are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frames: Option<FrameLog>,
    /// Frames are noted as it presents them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub presented: Option<Presented>,
    /// The rate of what it plays.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub plays_at: Option<f64>,
    /// The display that its frames are held against.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub display: Option<Display>,
    /// The loads that it takes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub load: Option<LoadRule>,
    /// For how long it is driven.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub endurance: Option<EnduranceRule>,
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
            exit_codes: vec![0],
            produces: Vec::new(),
            work: None,
            readings: Vec::new(),
            splits: None,
            fills_cache: false,
            frames: None,
            presented: None,
            plays_at: None,
            display: None,
            load: None,
            endurance: None,
        }
    }

    /// Returns whether a lap of it draws frames.
    pub fn draws(&self) -> bool {
        self.frames.is_some() || self.presented.is_some()
    }

    /// Returns what its passes are held against.
    pub fn against(&self) -> Against {
        Against { display: self.display, plays_at: self.plays_at }
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
    pub rest: Rest,
    /// A lap that takes longer is ended and recorded as over its limit.
    pub limit: Nanos,
    /// Commands whose first output line is recorded with every session.
    pub versions: Vec<(String, Launch)>,
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

/// The rest between two laps, in no one's time.
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
    /// Where a lap fills a cache, each variant comes cold and then warm.
    pub fn variants(&self) -> Vec<Settings> {
        if !self.task.fills_cache {
            return variants(&self.vary);
        }
        let cache = (CACHE.to_owned(), vec![COLD.to_owned(), WARM.to_owned()]);
        variants(&[&self.vary[..], &[cache]].concat())
    }

    /// Returns how many variants follow each other in a fixed order: 2 where each comes cold and
    /// then warm.
    pub fn block(&self) -> usize {
        if self.task.fills_cache { 2 } else { 1 }
    }
}
