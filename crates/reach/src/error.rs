//! What can go wrong between this machine and another.

use std::path::{Path, PathBuf};

/// Why a machine was not reached, or what it said could not be taken.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ReachError {
    /// The command line cannot be started here.
    #[error("`{line}` cannot be started")]
    NotStarted {
        /// The command line.
        line: String,
        /// Why.
        source: std::io::Error,
    },
    /// It ended before the machine answered.
    #[error("`{line}` did not connect to a machine")]
    Unreached {
        /// The command line.
        line: String,
        /// The last that it said.
        said: Vec<String>,
    },
    /// What runs there is no system that the tool is made for.
    #[error("the machine is {found}, and no `lap` for it was given")]
    NoProgram {
        /// What it says it is.
        found: String,
    },
    /// It could not take what was sent.
    #[error("{what}")]
    NotTaken {
        /// What failed there.
        what: &'static str,
        /// The last that it said.
        said: Vec<String>,
    },
    /// The connection was lost.
    #[error("the connection was lost")]
    Lost {
        /// The last that it said.
        said: Vec<String>,
    },
    /// What came is not what the tool sends.
    #[error("what came is not what `lap` sends: {what}")]
    Strange {
        /// What is wrong with it.
        what: String,
    },
    /// A file here could not be read or written.
    #[error("cannot {action} {path}", path = path.display())]
    Io {
        /// What was tried.
        action: &'static str,
        /// The file.
        path: PathBuf,
        /// Why it failed.
        source: std::io::Error,
    },
}

impl ReachError {
    /// Returns what makes an error of a failed step on the file at `path`.
    pub(crate) fn io(
        action: &'static str,
        path: &Path,
    ) -> impl FnOnce(std::io::Error) -> Self + use<> {
        let path = path.to_owned();
        move |source| Self::Io { action, path, source }
    }

    /// Returns the last that the other side said.
    pub fn said(&self) -> &[String] {
        match self {
            Self::Unreached { said, .. } | Self::NotTaken { said, .. } | Self::Lost { said } => {
                said
            }
            _ => &[],
        }
    }
}
