//! Why a log could not be read, and what to do.

/// Why a log could not be read: where, why, and how it can be.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum LogError {
    /// The file itself.
    #[error("cannot read it")]
    Io {
        /// Why.
        #[from]
        source: std::io::Error,
    },
    /// It is no log of frame times.
    #[error("{problem}")]
    Unreadable {
        /// Where and why.
        problem: String,
        /// What to do.
        remedy: String,
    },
    /// It could be read in more ways than one.
    #[error("{problem}")]
    Asks {
        /// What is not clear.
        problem: String,
        /// How to say it.
        remedy: String,
    },
}

impl LogError {
    pub(crate) fn unreadable(problem: impl Into<String>, remedy: impl Into<String>) -> Self {
        Self::Unreadable { problem: problem.into(), remedy: remedy.into() }
    }

    pub(crate) fn asks(problem: impl Into<String>, remedy: impl Into<String>) -> Self {
        Self::Asks { problem: problem.into(), remedy: remedy.into() }
    }

    /// Returns the user's next action.
    pub fn help(&self) -> Option<&str> {
        match self {
            Self::Io { .. } => None,
            Self::Unreadable { remedy, .. } | Self::Asks { remedy, .. } => Some(remedy),
        }
    }
}
