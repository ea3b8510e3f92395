//! What is read from a lap: numbers behind a text, parts that begin at a line.

use crate::record::{Better, Measure, SECONDS, Template};
use crate::unit::{Decimals, seconds_in};
use serde::{Deserialize, Serialize};

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
    /// Whether a lap may be without it and count all the same.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub optional: bool,
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
