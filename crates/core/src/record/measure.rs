//! A measure: one named quantity read from a lap, with its unit and which way is better.

use serde::{Deserialize, Serialize};

/// The name of the measure that every timed lap yields.
pub const TIME: &str = "time";

/// The unit in which every measure of time is kept.
pub const SECONDS: &str = "s";

/// Which way a measure is better.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Better {
    /// Less is better: a time, a loss, a temperature.
    Less,
    /// More is better: a score, a rate.
    More,
}

impl Better {
    /// Returns the word the study and the logbook use.
    pub fn word(self) -> &'static str {
        match self {
            Self::Less => "less",
            Self::More => "more",
        }
    }
}

/// A named quantity.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Measure {
    /// Its name: `time`, `score`, `draw`.
    pub name: String,
    /// Its unit; empty where it is a bare number.
    pub unit: String,
    /// Which way is better.
    pub better: Better,
}

impl Measure {
    /// Returns the time of a lap.
    pub fn time() -> Self {
        Self { name: TIME.to_owned(), unit: SECONDS.to_owned(), better: Better::Less }
    }

    /// Returns whether it is a time, whatever its name.
    pub fn is_time(&self) -> bool {
        self.unit == SECONDS
    }
}

/// A measure's value in one lap, or why there is none.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Reading {
    /// The measure's name.
    pub name: String,
    /// Its unit; times are kept in seconds.
    pub unit: String,
    /// Which way is better.
    pub better: Better,
    /// The value; `None` if it could not be read.
    pub value: Option<f64>,
    /// The smallest step in which it was read: `0:52` is known to the second.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub step: Option<f64>,
    /// What was seen: the text that was read, or why nothing could be.
    pub seen: String,
    /// Whether the program says it of the very time that the tool measured.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub reports_time: bool,
}

impl Reading {
    /// Returns the measure it is of.
    pub fn measure(&self) -> Measure {
        Measure { name: self.name.clone(), unit: self.unit.clone(), better: self.better }
    }
}
