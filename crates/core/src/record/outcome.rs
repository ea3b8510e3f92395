//! What came of a lap.

use serde::{Deserialize, Serialize};

/// What came of a lap, in one word.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// The work was done.
    Done,
    /// The program ended with an exit code that does not mean success.
    ExitCode,
    /// A signal ended the program.
    Signal,
    /// It took longer than its limit and was ended.
    OverLimit,
    /// What it must produce is missing or wrong.
    WrongOutput,
    /// The work was done, and a number that it should have said could not be read.
    ReadingFailed,
    /// A person says that it failed.
    Failed,
    /// A step ahead of it failed, so it was not started.
    BeforeFailed,
    /// It could not be started.
    NotStarted,
    /// The person at the keyboard ended it.
    Interrupted,
    /// The tool itself was ended while the lap was under way.
    Lost,
}

impl Outcome {
    /// Every outcome, in the order of its definition.
    pub const ALL: [Self; 11] = [
        Self::Done,
        Self::ExitCode,
        Self::Signal,
        Self::OverLimit,
        Self::WrongOutput,
        Self::ReadingFailed,
        Self::Failed,
        Self::BeforeFailed,
        Self::NotStarted,
        Self::Interrupted,
        Self::Lost,
    ];

    /// Returns the word the logbook keeps.
    pub fn word(self) -> &'static str {
        match self {
            Self::Done => "done",
            Self::ExitCode => "exit-code",
            Self::Signal => "signal",
            Self::OverLimit => "over-limit",
            Self::WrongOutput => "wrong-output",
            Self::ReadingFailed => "reading-failed",
            Self::Failed => "failed",
            Self::BeforeFailed => "before-failed",
            Self::NotStarted => "not-started",
            Self::Interrupted => "interrupted",
            Self::Lost => "lost",
        }
    }

    /// Returns the outcome that `word` names.
    pub fn from_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|outcome| outcome.word() == word)
    }

    /// Returns the words a person reads.
    pub fn phrase(self) -> &'static str {
        match self {
            Self::Done => "done",
            Self::ExitCode => "wrong exit code",
            Self::Signal => "ended by a signal",
            Self::OverLimit => "over its limit",
            Self::WrongOutput => "wrong output",
            Self::ReadingFailed => "a reading failed",
            Self::Failed => "failed",
            Self::BeforeFailed => "step before it failed",
            Self::NotStarted => "could not start",
            Self::Interrupted => "interrupted",
            Self::Lost => "lost with the tool",
        }
    }

    /// Returns whether the lap speaks against the program: ending it by hand does not.
    pub fn is_failure(self) -> bool {
        !matches!(self, Self::Done | Self::Interrupted | Self::Lost)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn outcomes_are_read_back() {
        for outcome in Outcome::ALL {
            assert_eq!(Outcome::from_word(outcome.word()), Some(outcome));
        }
        assert_eq!(Outcome::from_word("fine"), None);
    }
}
