//! What people say about records, written beside them and never into them.

use crate::record::{LapName, SessionName};
use serde::{Deserialize, Serialize};

/// What a remark does.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum RemarkKind {
    /// Leaves a lap out of sums from now on.
    SetAside,
    /// Takes a lap back into sums.
    TakenBack,
    /// Says something.
    Note,
    /// Says how it felt, which no figure does.
    Felt,
    /// Leaves stretches of a pass out of its figures from now on, or none.
    Cut,
}

impl RemarkKind {
    /// Every kind.
    pub const ALL: [Self; 5] = [Self::SetAside, Self::TakenBack, Self::Note, Self::Felt, Self::Cut];

    /// Returns the word the logbook keeps.
    pub fn word(self) -> &'static str {
        match self {
            Self::SetAside => "set-aside",
            Self::TakenBack => "taken-back",
            Self::Note => "note",
            Self::Felt => "felt",
            Self::Cut => "cut",
        }
    }

    /// Returns the kind that `word` names.
    pub fn from_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.word() == word)
    }
}

/// What a remark is about.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Subject {
    /// A lap.
    Lap(LapName),
    /// A session.
    Session(SessionName),
    /// A rig.
    Rig(String),
    /// A workload.
    Workload(String),
}

impl std::fmt::Display for Subject {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Lap(name) => write!(f, "{name}"),
            Self::Session(name) => write!(f, "{name}"),
            Self::Rig(name) | Self::Workload(name) => write!(f, "{name}"),
        }
    }
}

/// A remark.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Remark {
    /// What it does.
    pub kind: RemarkKind,
    /// What it is about.
    pub subject: Subject,
    /// When it was made, RFC 3339: a label.
    pub made: String,
    /// Its words.
    pub text: String,
}
