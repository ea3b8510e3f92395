//! What keeps laps from being run at all.

use std::io;
use std::path::PathBuf;

/// A failure of the tool or its surroundings, as opposed to one of a lap.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum MeasureError {
    /// A file or folder of ours could not be used.
    #[error("cannot {action} {}", path.display())]
    Io {
        /// What was tried.
        action: &'static str,
        /// On what.
        path: PathBuf,
        /// Why not.
        source: io::Error,
    },
    /// The small process that starts laps could not be started.
    #[error("cannot start the process that starts laps")]
    Starter {
        /// Why not.
        source: io::Error,
    },
    /// The sink of events failed, so nothing more may be run.
    #[error("a lap could not be written down")]
    Sink {
        /// Why not.
        source: crate::event::SinkError,
    },
    /// There is nowhere to put what is loaded into programs.
    #[error("there is no place for the recorder of frames: {tried}")]
    NoPlaceForRecorder {
        /// Where, and why not.
        tried: String,
    },
    /// What is to be a folder of ours is a link to somewhere else.
    #[error("{} is a link, and what is below it would be removed", path.display())]
    Link {
        /// The link.
        path: PathBuf,
    },
    /// A path holds bytes that no command line of ours can carry.
    #[error("{} is not valid UTF-8", path.display())]
    PathNotText {
        /// The path.
        path: PathBuf,
    },
}

impl MeasureError {
    /// Returns the user's next action, if there is one.
    pub fn help(&self) -> Option<&'static str> {
        match self {
            Self::Io { source, .. } if source.kind() == io::ErrorKind::StorageFull => {
                Some("free some space, then run again: every lap announced so far is kept")
            }
            Self::Link { .. } => Some("remove the link; the tool makes a folder there"),
            Self::PathNotText { .. } => Some("move the study to a folder with a plain name"),
            Self::NoPlaceForRecorder { .. } => Some(
                "set TMPDIR to a folder without blanks and colons in its path, from which programs may \
                 be executed",
            ),
            _ => None,
        }
    }
}

/// Names what was tried when an [`io::Error`] came back.
pub(crate) trait During<T> {
    /// Turns an I/O error into one that says what was tried, on what.
    fn during(self, action: &'static str, path: &std::path::Path) -> Result<T, MeasureError>;
}

impl<T> During<T> for io::Result<T> {
    fn during(self, action: &'static str, path: &std::path::Path) -> Result<T, MeasureError> {
        self.map_err(|source| MeasureError::Io { action, path: path.to_owned(), source })
    }
}
