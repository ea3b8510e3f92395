//! What a workload says of its loads: which there are, and what counts as held, strained or broken.

use serde::{Deserialize, Serialize};

/// The loads, smallest first.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Loads {
    /// Whole numbers.
    Range {
        /// The smallest.
        from: u32,
        /// The largest.
        to: u32,
        /// From one to the next.
        step: u32,
    },
    /// Named steps, such as `quarter`, `half`, `full`.
    Named(Vec<String>),
}

/// When a lap that worked is strained.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Strained {
    /// Its output has a line that this regular expression finds.
    Pattern(String),
    /// What was read lies above this.
    Above(String, f64),
    /// What was read lies below this.
    Below(String, f64),
    /// More than this share of its frames was not on time.
    LateFrames(f64),
}

/// What of a lap's end is a load that broke; anything else is a failure, which says nothing of the load.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Broke {
    /// These exit codes.
    pub exit_codes: Vec<i32>,
    /// Being ended at its limit.
    pub limit: bool,
    /// A crash.
    pub signals: bool,
}

/// The load of a workload.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LoadRule {
    /// Which there are.
    pub loads: Loads,
    /// What they count; empty where they are named.
    pub unit: String,
    /// When a lap is strained.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub strained: Option<Strained>,
    /// When a load broke.
    pub broke: Broke,
    /// The most laps of a search.
    pub most: u32,
}

/// What came of a lap at a load.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum LoadOutcome {
    /// It did what it should.
    Held,
    /// It worked, with breaks.
    Strained,
    /// It did not.
    Broke,
}

impl LoadOutcome {
    /// Returns the word the logbook keeps.
    pub fn word(self) -> &'static str {
        match self {
            Self::Held => "held",
            Self::Strained => "strained",
            Self::Broke => "broke",
        }
    }

    /// Returns what `word` names.
    pub fn from_word(word: &str) -> Option<Self> {
        [Self::Held, Self::Strained, Self::Broke].into_iter().find(|came| came.word() == word)
    }
}
