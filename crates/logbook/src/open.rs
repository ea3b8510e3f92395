//! Opening a logbook: ours, no newer than we know, brought up to the present format.

use crate::error::LogbookError;
use crate::foreign::foreign_object;
use crate::patience::wait;
use crate::schema::{APPLICATION_ID, bring_up, newest};
use rusqlite::backup::Backup;
use rusqlite::{Connection, ErrorCode, OpenFlags, Transaction, TransactionBehavior};
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::time::Duration;

/// An open logbook.
#[derive(Debug)]
pub struct Logbook {
    pub(crate) db: Connection,
    pub(crate) path: PathBuf,
    /// Device and inode of the file that was opened.
    identity: Option<(u64, u64)>,
}

/// What a logbook is opened for.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Use {
    Reading,
    Writing,
}

impl Logbook {
    /// Opens the logbook at `path`, creating it where there is none.
    pub fn create_or_open(path: &Path) -> Result<Self, LogbookError> {
        Self::open_with(path, OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_CREATE)
    }

    /// Opens the logbook at `path`, which must exist, to write to it.
    pub fn open_to_write(path: &Path) -> Result<Self, LogbookError> {
        if !path.exists() {
            return Err(LogbookError::Missing { path: path.to_owned() });
        }
        Self::open_with(path, OpenFlags::SQLITE_OPEN_READ_WRITE)
    }

    /// Opens the logbook at `path`, which must exist, to read it: it is never written to, and one of an older format
    /// is brought up in a copy that is gone with this.
    ///
    /// It is opened for writing where that is allowed, only so that SQLite may finish what a
    /// killed program left half done; where it is not, for reading.
    pub fn open(path: &Path) -> Result<Self, LogbookError> {
        if !path.exists() {
            return Err(LogbookError::Missing { path: path.to_owned() });
        }
        let open = |flags| Self::open_prepared(path, flags, Use::Reading, |_| Ok(()));
        match open(OpenFlags::SQLITE_OPEN_READ_WRITE) {
            Err(LogbookError::Database { source, .. })
                if matches!(
                    source.sqlite_error_code(),
                    Some(ErrorCode::ReadOnly | ErrorCode::CannotOpen | ErrorCode::PermissionDenied)
                ) =>
            {
                open(OpenFlags::SQLITE_OPEN_READ_ONLY)
            }
            opened => opened,
        }
    }

    fn open_with(path: &Path, flags: OpenFlags) -> Result<Self, LogbookError> {
        Self::open_prepared(path, flags, Use::Writing, |_| Ok(()))
    }

    /// Opens the logbook at `path` after `careful` has set what may be done with it.
    pub(crate) fn open_careful(
        path: &Path,
        careful: impl Fn(&Connection) -> rusqlite::Result<()>,
    ) -> Result<Self, LogbookError> {
        Self::open_prepared(path, OpenFlags::SQLITE_OPEN_READ_WRITE, Use::Writing, careful)
    }

    fn open_prepared(
        path: &Path,
        flags: OpenFlags,
        purpose: Use,
        careful: impl Fn(&Connection) -> rusqlite::Result<()>,
    ) -> Result<Self, LogbookError> {
        let failed = |source| database("open", path, source);
        let mut db = Connection::open_with_flags(path, flags | OpenFlags::SQLITE_OPEN_NO_MUTEX)
            .map_err(failed)?;
        db.execute_batch("PRAGMA trusted_schema = OFF;").map_err(failed)?;
        careful(&db).map_err(failed)?;
        db.busy_handler(Some(wait)).map_err(failed)?;
        let mut logbook = Self { db, path: path.to_owned(), identity: None };
        logbook.prepare(purpose)?;
        logbook.identity = identity(path);
        Ok(logbook)
    }

    fn prepare(&mut self, purpose: Use) -> Result<(), LogbookError> {
        let path = self.path.clone();
        let failed = |source: rusqlite::Error| match source.sqlite_error_code() {
            Some(ErrorCode::NotADatabase) => LogbookError::NotALogbook { path: path.clone() },
            _ => database("open", &path, source),
        };
        // Somebody else may be making it, or bringing it up: what it is, is asked at one moment.
        let moment = begin(&self.db).map_err(failed)?;
        let number = |pragma| -> rusqlite::Result<i64> {
            self.db.pragma_query_value(None, pragma, |row| row.get(0))
        };
        let application = number("application_id").map_err(failed)?;
        let format = number("user_version").map_err(failed)?;
        // The format is kept as a signed number; a negative one is nobody's.
        let format = u32::try_from(format).unwrap_or(u32::MAX);
        let tables: u32 = self
            .db
            .query_row("SELECT count(*) FROM sqlite_schema", [], |row| row.get(0))
            .map_err(failed)?;
        let ours = application == i64::from(APPLICATION_ID)
            || (application == 0 && format == 0 && tables == 0);
        if !ours {
            return Err(LogbookError::NotALogbook { path });
        }
        let newest = newest();
        if format > newest {
            return Err(LogbookError::TooNew { path, found: format, known: newest });
        }
        // A trigger or a view of somebody else's would answer for us in whatever is asked next.
        if let Some(name) = foreign_object(&self.db, format).map_err(failed)? {
            return Err(LogbookError::Foreign { path, name });
        }
        drop(moment);
        // A rollback journal leaves one file at rest, safe to copy; EXTRA makes a commit durable
        // even if the power fails right after it.
        self.db
            .execute_batch("PRAGMA foreign_keys = OFF; PRAGMA synchronous = EXTRA;")
            .map_err(failed)?;
        if format < newest && purpose == Use::Reading {
            self.db = private_copy(&self.db).map_err(failed)?;
        }
        if format < newest {
            // References are off meanwhile: a table that is made anew is gone for a moment.
            self.migrate().map_err(failed)?;
        }
        self.db.execute_batch("PRAGMA foreign_keys = ON;").map_err(failed)?;
        match purpose {
            Use::Reading => self.db.execute_batch("PRAGMA query_only = ON;").map_err(failed),
            Use::Writing => Ok(()),
        }
    }

    fn migrate(&mut self) -> rusqlite::Result<()> {
        let tx = self.db.transaction_with_behavior(TransactionBehavior::Immediate)?;
        // Another program may have migrated it while we waited for our turn.
        let format: u32 = tx.pragma_query_value(None, "user_version", |row| row.get(0))?;
        bring_up(&tx, format, newest())?;
        tx.pragma_update(None, "application_id", APPLICATION_ID)?;
        tx.pragma_update(None, "user_version", newest())?;
        tx.commit()
    }

    /// Returns an error if the file at the logbook's path is no longer the one that was opened.
    pub(crate) fn still_there(&self) -> Result<(), LogbookError> {
        if identity(&self.path) == self.identity {
            Ok(())
        } else {
            Err(LogbookError::Replaced { path: self.path.clone() })
        }
    }

    /// Returns another connection to the same file, to read it; none where it has no name.
    pub(crate) fn beside_this(&self) -> rusqlite::Result<Option<Connection>> {
        let Some(path) = self.db.path().filter(|path| !path.is_empty()) else { return Ok(None) };
        let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
        let mut other = Connection::open_with_flags(path, flags)?;
        other.execute_batch("PRAGMA trusted_schema = OFF;")?;
        other.busy_handler(Some(wait))?;
        Ok(Some(other))
    }

    /// Returns every fault that SQLite's own integrity check finds; none means sound.
    pub fn faults(&self) -> Result<Vec<String>, LogbookError> {
        let check = || -> rusqlite::Result<Vec<String>> {
            let mut statement = self.db.prepare("PRAGMA integrity_check")?;
            let rows = statement.query_map([], |row| row.get(0))?;
            rows.collect()
        };
        let told = check().map_err(|source| self.failed("check", source))?;
        // Several may come in one text, under a heading.
        let faults = told.iter().flat_map(|text| text.lines());
        let faults = faults.filter(|line| *line != "ok" && !line.starts_with("***"));
        Ok(faults.map(str::to_owned).collect())
    }

    pub(crate) fn failed(&self, action: &'static str, source: rusqlite::Error) -> LogbookError {
        database(action, &self.path, source)
    }

    pub(crate) fn damaged(&self, what: impl Into<String>) -> LogbookError {
        LogbookError::Damaged { path: self.path.clone(), what: what.into() }
    }
}

/// Begins to read: until it is dropped, all is read as it stands at one moment.
pub(crate) fn begin(db: &Connection) -> rusqlite::Result<Transaction<'_>> {
    let begun = db.unchecked_transaction()?;
    // It begins with the first thing that is asked, not before.
    begun.query_row("SELECT count(*) FROM sqlite_schema", [], |_| Ok(()))?;
    Ok(begun)
}

/// Returns a copy of `db` in a file that has no name and goes with it.
fn private_copy(db: &Connection) -> rusqlite::Result<Connection> {
    let mut copy = Connection::open("")?;
    Backup::new(db, &mut copy)?.run_to_completion(PAGES, Duration::ZERO, None)?;
    copy.execute_batch("PRAGMA trusted_schema = OFF; PRAGMA foreign_keys = OFF;")?;
    Ok(copy)
}

/// Pages that are copied between two looks at whether somebody writes.
const PAGES: i32 = 4_096;

fn database(action: &'static str, path: &Path, source: rusqlite::Error) -> LogbookError {
    LogbookError::Database { action, path: path.to_owned(), source }
}

fn identity(path: &Path) -> Option<(u64, u64)> {
    std::fs::metadata(path).ok().map(|meta| (meta.dev(), meta.ino()))
}
