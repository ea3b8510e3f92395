//! What can go wrong with a logbook, and what to do about it.

use rusqlite::ErrorCode;
use std::fs::File;
use std::io::ErrorKind;
use std::path::PathBuf;

/// A logbook that cannot be read or written.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum LogbookError {
    /// There is none.
    #[error("there is no logbook at {}", path.display())]
    Missing {
        /// Where it was looked for.
        path: PathBuf,
    },
    /// The file is something else.
    #[error("{} is not a logbook", path.display())]
    NotALogbook {
        /// The file.
        path: PathBuf,
    },
    /// A newer version of the tool wrote it.
    #[error("{} is written in format {found}; this version knows up to {known}", path.display())]
    TooNew {
        /// The file.
        path: PathBuf,
        /// The file's format.
        found: u32,
        /// The newest format this build knows.
        known: u32,
    },
    /// What was written cannot be understood.
    #[error("{}: {what} cannot be read", path.display())]
    Damaged {
        /// The file.
        path: PathBuf,
        /// What, in words.
        what: String,
    },
    /// The file could not be copied or looked at.
    #[error("cannot read {}", path.display())]
    Io {
        /// The file.
        path: PathBuf,
        /// Why not.
        source: std::io::Error,
    },
    /// The file is larger than a logbook that is imported may be.
    #[error("{} is larger than a logbook that can be imported ({} MB)", path.display(), bytes >> 20)]
    TooLarge {
        /// The file.
        path: PathBuf,
        /// Its size.
        bytes: u64,
    },
    /// The file unpacks to more than any recording of its size would.
    #[error("{} says that its {bytes} bytes hold {numbers} frames and samples", path.display())]
    Bomb {
        /// The file.
        path: PathBuf,
        /// The numbers that it says are packed in it.
        numbers: u64,
        /// Its size.
        bytes: u64,
    },
    /// The file holds something that the tool does not write.
    #[error("{} is not as this tool writes it: {name}", path.display())]
    Foreign {
        /// The file.
        path: PathBuf,
        /// What it holds.
        name: String,
    },
    /// A record of the file is not as it was written.
    #[error("{}: a seal is broken: {what}", path.display())]
    Broken {
        /// The file.
        path: PathBuf,
        /// Which.
        what: String,
    },
    /// Two logbooks hold one record differently.
    #[error("{}: {what} is there too, and not the same", path.display())]
    Parted {
        /// The other file.
        path: PathBuf,
        /// Which record.
        what: String,
    },
    /// Nothing of that name was recorded.
    #[error("there is no {what} in the logbook")]
    NoSuch {
        /// What was asked for.
        what: String,
    },
    /// The file was removed or replaced while laps were run.
    #[error("{} was removed or replaced while laps were run", path.display())]
    Replaced {
        /// Where it should be.
        path: PathBuf,
    },
    /// The database failed.
    #[error("cannot {action} {}", path.display())]
    Database {
        /// What was tried.
        action: &'static str,
        /// The file.
        path: PathBuf,
        /// Why it failed.
        source: rusqlite::Error,
    },
}

impl LogbookError {
    /// Returns whether the system had no room, no memory or no descriptor left: no fault of the file or the request.
    pub fn is_about_surroundings(&self) -> bool {
        let Self::Database { source, path, .. } = self else { return false };
        match source.sqlite_error_code() {
            Some(ErrorCode::DiskFull | ErrorCode::OutOfMemory | ErrorCode::SystemIoFailure) => true,
            // SQLite does not say why: a file that may be opened lacked a descriptor, as it may still.
            Some(ErrorCode::CannotOpen) => match File::options().write(true).open(path) {
                Ok(_) => true,
                Err(err) => !matches!(
                    err.kind(),
                    ErrorKind::PermissionDenied
                        | ErrorKind::NotFound
                        | ErrorKind::ReadOnlyFilesystem
                        | ErrorKind::IsADirectory
                ),
            },
            _ => false,
        }
    }

    /// Returns the user's next action, if there is one.
    pub fn help(&self) -> Option<&'static str> {
        match self {
            Self::Missing { .. } => Some("run a lap first: `lap run`"),
            Self::NotALogbook { .. } => {
                Some("move that file elsewhere; the tool writes a logbook of its own in its place")
            }
            Self::TooNew { .. } => {
                Some("use the version of the tool that wrote it, or a newer one")
            }
            Self::Damaged { .. } => Some("restore the file from a copy; nothing was written to it"),
            Self::Io { .. } | Self::TooLarge { .. } => None,
            Self::Bomb { .. } => {
                Some("no recording packs that small: ask where the file comes from")
            }
            Self::Foreign { .. } => Some(
                "restore the file from a copy, or ask where it comes from: a logbook that `lap verify` accepts is just as the tool writes it",
            ),
            Self::Broken { .. } => {
                Some("nothing of it was merged; ask for a copy that `lap verify` accepts")
            }
            Self::Parted { .. } => Some(
                "the study's folder was copied in the midst of a session and resumed twice: keep \
                 one of the two logbooks apart",
            ),
            Self::NoSuch { .. } => Some("`lap show` lists every session"),
            Self::Replaced { .. } => {
                Some("give the workload a `folder` of its own, such as folder = \"{lap_dir}\"")
            }
            Self::Database { source, .. } => match source.sqlite_error_code()? {
                ErrorCode::DiskFull => {
                    Some("free some space, then run again: every lap announced so far is kept")
                }
                ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked => {
                    Some("another program holds the file; wait until it is done")
                }
                ErrorCode::ReadOnly | ErrorCode::CannotOpen => {
                    Some("check that you may write to the study's folder")
                }
                ErrorCode::DatabaseCorrupt => {
                    Some("restore the file from a copy; keep the damaged one")
                }
                _ => None,
            },
        }
    }
}
