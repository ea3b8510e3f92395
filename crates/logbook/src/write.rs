//! Appending sessions and laps. Every lap is its own transaction, durable when it returns.

use crate::error::LogbookError;
use crate::frames;
use crate::json::json;
use crate::new::{NewLap, NewSession, OpenSession};
use crate::open::Logbook;
use crate::seal::{seal_lap, seal_session};
use crate::series;
use crate::stored::{
    DETAIL, DetailRow, LAP, LapRow, OUTPUT, Output, SESSION, SessionRow, TASK, TaskRow, VARIANT,
};
use honest_lap_core::endurance::{Endured, Evidence};
use honest_lap_core::record::{LapBody, SessionName, Settings, Task};
use rusqlite::{OptionalExtension, Transaction};
use std::collections::HashMap;

impl Logbook {
    /// Writes down the beginning of a session.
    pub fn begin_session(&mut self, new: &NewSession<'_>) -> Result<OpenSession, LogbookError> {
        self.record_session(new, &[])
    }

    /// Writes down a session with laps that were recorded before: all of it, or nothing.
    pub fn record_session(
        &mut self,
        new: &NewSession<'_>,
        laps: &[NewLap<'_>],
    ) -> Result<OpenSession, LogbookError> {
        let one = (new.clone(), laps.to_vec());
        let mut sessions = self.record_sessions(std::slice::from_ref(&one))?;
        Ok(sessions.swap_remove(0))
    }

    /// Writes down sessions with laps that were recorded before: all of them, or nothing.
    pub fn record_sessions(
        &mut self,
        all: &[(NewSession<'_>, Vec<NewLap<'_>>)],
    ) -> Result<Vec<OpenSession>, LogbookError> {
        self.still_there()?;
        // Whoever else writes gives names too: these are chosen once nobody else can.
        let tx = self.exclusively("write to")?;
        let names = self.names()?;
        let mut next: HashMap<&str, u32> = HashMap::new();
        let mut sessions = Vec::with_capacity(all.len());
        for (new, laps) in all {
            let number = match next.get(new.rig) {
                Some(number) => *number,
                None => names.next(new.rig)?,
            };
            next.insert(new.rig, number.saturating_add(1));
            let run = || {
                let row = SessionRow { number, new };
                let id = SESSION.insert(&tx, |write| write(&row))?;
                seal_session(&tx, id)?;
                laps.iter().try_for_each(|lap| insert(&tx, id, lap))
            };
            run().map_err(|source| self.failed("write to", source))?;
            let name = SessionName { rig: new.rig.to_owned(), number };
            sessions.push(OpenSession { name, mark: new.mark.to_owned() });
        }
        tx.commit().map_err(|source| self.failed("write to", source))?;
        Ok(sessions)
    }

    /// Returns the session that is called `name` now, to be resumed.
    pub fn open_session(&self, name: &SessionName) -> Result<OpenSession, LogbookError> {
        let missing = || LogbookError::NoSuch { what: format!("session {name}") };
        let id = self.names()?.id(name).ok_or_else(missing)?;
        let mark = self.one("SELECT mark FROM session WHERE id = ?1", &[&id], |row| row.get(0))?;
        Ok(OpenSession { name: name.clone(), mark: mark.ok_or_else(missing)? })
    }

    /// Returns the session with this mark, if it is here.
    pub fn session_marked(&self, mark: &str) -> Result<Option<OpenSession>, LogbookError> {
        let names = self.names()?;
        let id: Option<i64> =
            self.one("SELECT id FROM session WHERE mark = ?1", &[&mark], |row| row.get(0))?;
        let name = id.and_then(|id| names.of(id).cloned());
        Ok(name.map(|name| OpenSession { name, mark: mark.to_owned() }))
    }

    /// Appends a lap; when this returns, it is on the disk.
    pub fn append_lap(
        &mut self,
        session: &OpenSession,
        lap: &NewLap<'_>,
    ) -> Result<(), LogbookError> {
        self.append_laps(session, std::slice::from_ref(lap))
    }

    /// Appends laps that were recorded before, all or none of them.
    pub fn append_laps(
        &mut self,
        session: &OpenSession,
        laps: &[NewLap<'_>],
    ) -> Result<(), LogbookError> {
        self.still_there()?;
        let found = self.transact("write to", |tx| {
            let id = tx
                .prepare_cached("SELECT id FROM session WHERE mark = ?1")?
                .query_row([&session.mark], |row| row.get(0))
                .optional()?;
            if let Some(id) = id {
                laps.iter().try_for_each(|lap| insert(tx, id, lap))?;
            }
            Ok(id.is_some())
        })?;
        let missing = || LogbookError::NoSuch { what: format!("session {}", session.name) };
        found.then_some(()).ok_or_else(missing)
    }

    /// Begins a transaction that is the only one that writes.
    pub(crate) fn exclusively(
        &self,
        action: &'static str,
    ) -> Result<Transaction<'_>, LogbookError> {
        Transaction::new_unchecked(&self.db, rusqlite::TransactionBehavior::Immediate)
            .map_err(|source| self.failed(action, source))
    }

    pub(crate) fn transact<T>(
        &mut self,
        action: &'static str,
        work: impl FnOnce(&Transaction<'_>) -> rusqlite::Result<T>,
    ) -> Result<T, LogbookError> {
        let tx = self.exclusively(action)?;
        let run = || {
            let made = work(&tx)?;
            tx.commit()?;
            Ok(made)
        };
        run().map_err(|source| self.failed(action, source))
    }
}

/// Returns the number of the form `task` of `workload`, entering it if it is new.
fn task_id(tx: &Transaction<'_>, workload: &str, task: &Task) -> rusqlite::Result<i64> {
    let form = json(task);
    let known = tx
        .prepare_cached("SELECT id FROM task WHERE workload = ?1 AND form = ?2")?
        .query_row([workload, &form], |row| row.get(0))
        .optional()?;
    let row = TaskRow { id: 0, workload, form: &form };
    known.map_or_else(|| TASK.insert(tx, |write| write(&row)), Ok)
}

fn variant_id(tx: &Transaction<'_>, settings: &Settings) -> rusqlite::Result<i64> {
    let text = json(settings);
    let known = tx
        .prepare_cached("SELECT id FROM variant WHERE settings = ?1")?
        .query_row([&text], |row| row.get(0))
        .optional()?;
    known.map_or_else(|| VARIANT.insert(tx, |write| write(&text)), Ok)
}

/// Returns what an endurance lap is worked out from.
fn evidence(body: &LapBody) -> Evidence<'_> {
    let frames = body.pass.as_ref().map_or(&[][..], |recorded| &recorded.pass.shown);
    Evidence { repeats: &body.repeats, frames, traces: &body.traces }
}

fn insert(tx: &Transaction<'_>, session: i64, new: &NewLap<'_>) -> rusqlite::Result<()> {
    let task = task_id(tx, new.workload, new.task)?;
    let row = LapRow { session, task, variant: variant_id(tx, new.settings)?, new };
    let lap = LAP.insert(tx, |write| write(&row))?;
    let body = new.body;
    let (traces, packed) = series::traces_text(&body.traces);
    let endured = Endured::of(new.task, new.settings, &evidence(body));
    let detail = DetailRow { lap, body, traces, endured };
    DETAIL.insert(tx, |write| write(&detail))?;
    for (stream, captured) in [("stdout", &body.stdout), ("stderr", &body.stderr)] {
        if captured.total > 0 {
            let output = Output { lap, stream: stream.to_owned(), captured };
            OUTPUT.insert(tx, |write| write(&output))?;
        }
    }
    if let Some(pass) = &body.pass {
        frames::insert(tx, lap, pass)?;
    }
    series::insert(tx, lap, body, packed)?;
    seal_lap(tx, session, new.number, lap)
}
