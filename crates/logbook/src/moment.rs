//! Reading at one moment: what somebody else writes meanwhile is in all of the answers or in none.

use crate::error::LogbookError;
use crate::open::{Logbook, begin};
use crate::patience::wait;
use rusqlite::{ErrorCode, Transaction};
use std::time::Duration;

impl Logbook {
    /// Begins to read: until what this returns is dropped, all is read as it stands at one moment, and whoever writes
    /// waits for it. Within another such read, and while something is written, that is so already.
    pub(crate) fn moment(&self) -> Result<Option<Transaction<'_>>, LogbookError> {
        let begun = self.db.is_autocommit().then(|| begin(&self.db)).transpose();
        begun.map_err(|source| self.failed("read", source))
    }

    /// Begins to read with this connection and `other`, one to the same file, at the same moment: with this one until the
    /// transaction is dropped, with the other one for good.
    ///
    /// Who waits to write lets nobody else begin to read, and waits for those who do: so the other one never waits while
    /// this one reads, or all three would wait for each other.
    pub(crate) fn moment_with(&self, other: &mut Self) -> Result<Transaction<'_>, LogbookError> {
        let mut begin_theirs = || -> rusqlite::Result<()> {
            other.db.busy_timeout(Duration::ZERO)?;
            // It ends with its connection.
            let begun = begin(&other.db).map(std::mem::forget);
            other.db.busy_handler(Some(wait))?;
            begun
        };
        let mut tries = 0;
        loop {
            let ours = begin(&self.db).map_err(|source| self.failed("read", source))?;
            match begin_theirs() {
                Ok(()) => return Ok(ours),
                Err(busy) if busy.sqlite_error_code() == Some(ErrorCode::DatabaseBusy) => {
                    drop(ours);
                    tries += 1;
                    if !wait(tries) {
                        return Err(self.failed("read", busy));
                    }
                }
                Err(source) => return Err(self.failed("read", source)),
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::Logbook;
    use crate::tests::{begin, body, lap, open, task};
    use honest_lap_core::record::Settings;
    use std::collections::BTreeSet;
    use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};

    #[test]
    fn what_is_written_meanwhile_is_in_all_of_an_answer_or_in_none_of_it() {
        let (dir, mut logbook) = open();
        let path = dir.path().join("logbook.db");
        begin(&mut logbook, "heron", "mark-0");
        let (done, looks) = (AtomicBool::new(false), AtomicUsize::new(0));
        let read = || {
            while !done.load(Ordering::Relaxed) {
                let all = Logbook::open(&path).unwrap().everything().unwrap();
                let laps: BTreeSet<_> = all.laps.iter().map(|lap| lap.name()).collect();
                let sessions: BTreeSet<_> =
                    all.sessions.iter().map(|session| &session.name).collect();
                assert!(laps.iter().all(|lap| sessions.contains(&lap.session)));
                let tasks: BTreeSet<u32> = all.tasks.iter().map(|task| task.id).collect();
                assert!(all.laps.iter().all(|lap| tasks.contains(&lap.series.task)));
                looks.fetch_add(1, Ordering::Relaxed);
            }
        };
        std::thread::scope(|scope| {
            let reader = scope.spawn(read);
            // However slowly a busy machine lets the reader look, something is written while it does.
            for at in 1.. {
                let seen = looks.load(Ordering::Relaxed);
                if at > 60 && seen > 3 || reader.is_finished() {
                    break;
                }
                // A session, a task and a variant that nobody has seen, each time.
                let session = begin(&mut logbook, "heron", &format!("mark-{at}"));
                let (work, body) = (task(&format!("render {at}")), body());
                let settings = Settings::new(vec![("at".into(), at.to_string())]);
                logbook.append_lap(&session, &lap(1, ("still", &work), &settings, &body)).unwrap();
            }
            done.store(true, Ordering::Relaxed);
            reader.join().unwrap();
        });
    }
}
