//! Joining logbooks: the union of what was recorded, on whatever machine.
//!
//! The other file may come from anyone. It is copied before it is opened, must have the very tables
//! that this version writes and no others, must be sound and sealed throughout, and every record of
//! it must be readable; only then are its rows taken over, as they are. A session is known by its
//! mark, so what both have is no change, and the order of merging does not matter.

use crate::error::LogbookError;
use crate::open::Logbook;
use crate::take_over::take_over;
use rusqlite::limits::Limit;
use rusqlite::{Connection, OptionalExtension};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// A logbook larger than this is not imported.
pub const MOST_MERGE_BYTES: u64 = 2 << 30;
/// Nor is a single value.
const MOST_VALUE_BYTES: i32 = 64 << 20;

/// What importing a logbook came to.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Merged {
    /// Sessions that were new.
    pub sessions: usize,
    /// Laps that were new.
    pub laps: usize,
    /// Remarks that were new.
    pub remarks: usize,
}

/// A rig's name that two machines have.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct TwoMachines {
    /// The name.
    pub rig: String,
    /// The name as the other logbook's sessions carry it in their records, and the other machine.
    pub theirs: (String, String),
}

/// Another logbook, checked and ready to be imported.
#[derive(Debug)]
pub struct Visitor {
    logbook: Logbook,
    /// The private copy, removed when it is no longer needed.
    copy: PathBuf,
    /// The file that it was copied from.
    from: PathBuf,
}

impl Drop for Visitor {
    fn drop(&mut self) {
        // A copy that cannot be removed is in the folder for temporary files.
        let _ = std::fs::remove_file(&self.copy);
    }
}

impl Visitor {
    /// Copies the logbook at `from` to `copy`, a path of nobody else's, and checks it throughout.
    pub fn check(from: &Path, copy: &Path) -> Result<Self, LogbookError> {
        let io = |source| LogbookError::Io { path: from.to_owned(), source };
        if !from.exists() {
            return Err(LogbookError::Missing { path: from.to_owned() });
        }
        let size = std::fs::metadata(from).map_err(io)?.len();
        if size > MOST_MERGE_BYTES {
            return Err(LogbookError::TooLarge { path: from.to_owned(), bytes: size });
        }
        std::fs::copy(from, copy).map_err(io)?;
        let visitor = Self {
            logbook: Logbook::open_visitor(copy, from)?,
            copy: copy.to_owned(),
            from: from.to_owned(),
        };
        visitor.examine(size)?;
        Ok(visitor)
    }

    fn examine(&self, bytes: u64) -> Result<(), LogbookError> {
        let logbook = &self.logbook;
        if let Some(fault) = logbook.faults()?.into_iter().next() {
            return Err(logbook.damaged(format!("the file ({fault})")));
        }
        logbook.check_numbers()?;
        if let Some(stray) = logbook.strays()?.into_iter().next() {
            let what = format!("no seal accounts for {stray}");
            return Err(LogbookError::Broken { path: self.from.clone(), what });
        }
        for session in logbook.verify()? {
            if let Some(broken) = session.broken {
                let what = format!("session {}: {broken}", session.name);
                return Err(LogbookError::Broken { path: self.from.clone(), what });
            }
        }
        if let Some(made) = logbook.verify_remarks()?.broken {
            let what = format!("the remark made at {made}");
            return Err(LogbookError::Broken { path: self.from.clone(), what });
        }
        // Whatever cannot be read now would be an error in every command from then on.
        logbook.examine(bytes)
    }

    /// Returns every name that is one machine's in `ours` and another's here.
    pub fn two_machines(&self, ours: &Logbook) -> Result<Vec<TwoMachines>, LogbookError> {
        let by_rig = |machines: Vec<(String, String)>| {
            let mut rigs: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
            machines.into_iter().for_each(|(rig, machine)| {
                rigs.entry(rig).or_default().insert(machine);
            });
            rigs
        };
        let known = by_rig(ours.machines()?);
        let calls = ours.calls()?;
        let mut found = Vec::new();
        for (rig, machine, recorded) in self.logbook.machines_as_recorded()? {
            // What was answered before is not asked again.
            if calls.contains_key(&(recorded.clone(), machine.clone())) {
                continue;
            }
            let theirs = by_rig(self.logbook.machines()?).remove(&rig).unwrap_or_default();
            if let Some(known) = known.get(&rig)
                // A machine set up anew has two fingerprints; one in common makes it the same.
                && known.is_disjoint(&theirs)
            {
                found.push(TwoMachines { rig, theirs: (recorded, machine) });
            }
        }
        found.sort();
        found.dedup();
        Ok(found)
    }
}

impl Logbook {
    /// Opens a copy of somebody else's logbook, with nothing in it trusted; `from` is named in
    /// errors.
    pub(crate) fn open_visitor(copy: &Path, from: &Path) -> Result<Self, LogbookError> {
        let careful = |db: &Connection| -> rusqlite::Result<()> {
            db.execute_batch("PRAGMA cell_size_check = ON;")?;
            db.set_limit(Limit::SQLITE_LIMIT_LENGTH, MOST_VALUE_BYTES)?;
            Ok(())
        };
        let mut logbook = Self::open_careful(copy, careful)?;
        from.clone_into(&mut logbook.path);
        Ok(logbook)
    }

    /// Imports everything of `visitor` that is not here yet, all of it or nothing.
    pub fn take_in(&mut self, visitor: &Visitor) -> Result<Merged, LogbookError> {
        self.attached(visitor, |logbook| logbook.take_in_attached(visitor, true))
    }

    /// Returns what importing `visitor` would come to; nothing is imported.
    pub fn preview(&mut self, visitor: &Visitor) -> Result<Merged, LogbookError> {
        self.attached(visitor, |logbook| logbook.take_in_attached(visitor, false))
    }

    /// Returns an error where both hold a record, and not the same.
    pub fn agrees_with(&mut self, visitor: &Visitor) -> Result<(), LogbookError> {
        self.attached(visitor, |logbook| logbook.check_agreement(visitor))
    }

    fn check_agreement(&self, visitor: &Visitor) -> Result<(), LogbookError> {
        match parted(&self.db).map_err(|source| self.failed("merge into", source))? {
            Some(what) => Err(LogbookError::Parted { path: visitor.from.clone(), what }),
            None => Ok(()),
        }
    }

    /// Does `work` while the other logbook is at hand.
    fn attached<T>(
        &mut self,
        visitor: &Visitor,
        work: impl FnOnce(&mut Self) -> Result<T, LogbookError>,
    ) -> Result<T, LogbookError> {
        self.still_there()?;
        let copy = visitor.copy.to_str().unwrap_or_default().to_owned();
        let attach = self.db.execute("ATTACH DATABASE ?1 AS other", [&copy]);
        attach.map_err(|source| self.failed("merge into", source))?;
        let done = work(self);
        let detached = self.db.execute_batch("DETACH DATABASE other");
        let done = done?;
        detached.map_err(|source| self.failed("merge into", source))?;
        Ok(done)
    }

    fn take_in_attached(&mut self, visitor: &Visitor, keep: bool) -> Result<Merged, LogbookError> {
        // Nobody else writes between the look at what differs and the importing.
        let tx = self.exclusively("merge into")?;
        let failed = |source| self.failed("merge into", source);
        self.check_agreement(visitor)?;
        let before = self.counts()?;
        take_over(&tx).map_err(failed)?;
        let after = self.counts()?;
        let ended = if keep { tx.commit() } else { tx.rollback() };
        ended.map_err(failed)?;
        let grown = |of: usize| after[of] - before[of];
        Ok(Merged { sessions: grown(0), laps: grown(1), remarks: grown(2) })
    }

    fn counts(&self) -> Result<[usize; 3], LogbookError> {
        let mut counts = [0; 3];
        for (count, table) in counts.iter_mut().zip(["session", "lap", "remark"]) {
            let query = format!("SELECT count(*) FROM main.{table}");
            let rows: Option<u32> = self.one(&query, &[], |row| row.get(0))?;
            *count = rows.unwrap_or(0) as usize;
        }
        Ok(counts)
    }
}

/// The records that both have and that are not the same in both, each in words: a folder was copied in the midst of a
/// session and resumed in two places, or somebody made one up.
const PARTED: [&str; 3] = [
    "SELECT CASE o.number WHEN 0 THEN 'session ' || s.rig || '-' || s.number
                          ELSE 'lap ' || s.rig || '-' || s.number || '.' || o.number END
     FROM other.seal o
         JOIN other.session os ON os.id = o.session
         JOIN main.session s ON s.mark = os.mark
         JOIN main.seal m ON m.session = s.id AND m.number = o.number
     WHERE m.seal <> o.seal
     ORDER BY s.id, o.number LIMIT 1",
    // Both went on, with laps of other numbers: each chain is whole, and both together would be none.
    "SELECT 'lap ' || s.rig || '-' || s.number || '.' || o.number
     FROM other.seal o
         JOIN other.session os ON os.id = o.session
         JOIN main.session s ON s.mark = os.mark
     WHERE NOT EXISTS (SELECT 1 FROM main.seal m WHERE m.session = s.id AND m.number = o.number)
         AND EXISTS (
             SELECT 1 FROM main.seal m WHERE m.session = s.id AND NOT EXISTS (
                 SELECT 1 FROM other.seal x WHERE x.session = os.id AND x.number = m.number))
     ORDER BY s.id, o.number LIMIT 1",
    "SELECT 'the remark made at ' || m.made
     FROM other.remark o JOIN main.remark m ON m.mark = o.mark
     WHERE m.seal <> o.seal ORDER BY m.place LIMIT 1",
];

/// Returns the first record that both have, each in its own way.
fn parted(db: &Connection) -> rusqlite::Result<Option<String>> {
    for query in PARTED {
        let found = db.query_row(query, [], |row| row.get(0)).optional()?;
        if found.is_some() {
            return Ok(found);
        }
    }
    Ok(None)
}

#[cfg(test)]
#[path = "merge_tests.rs"]
mod tests;
