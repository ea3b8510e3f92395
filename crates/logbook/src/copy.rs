//! A logbook as it stood at one moment, in a file of its own.

use crate::error::LogbookError;
use crate::open::Logbook;
use rusqlite::Connection;
use rusqlite::backup::Backup;
use std::path::Path;
use std::time::Duration;

/// Pages that are copied at once.
const PAGES: i32 = 1_024;

impl Logbook {
    /// Writes everything that is recorded into a new file at `path`: the same records under the same seals.
    ///
    /// * Errors: `path` exists already, or cannot be written.
    pub fn copy_to(&self, path: &Path) -> Result<(), LogbookError> {
        let action = "copy the logbook to";
        let failed = |source| LogbookError::Database { action, path: path.to_owned(), source };
        let copy = || -> rusqlite::Result<()> {
            let mut copy = Connection::open(path)?;
            Backup::new(&self.db, &mut copy)?.run_to_completion(PAGES, Duration::ZERO, None)?;
            // What was deleted from a page of the file is no part of what is recorded.
            copy.execute_batch("VACUUM")
        };
        copy().map_err(failed)
    }
}
