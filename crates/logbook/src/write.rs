//! Appending sessions and laps. Every lap is its own transaction, durable when it returns.

use crate::error::LogbookError;
use crate::frames;
use crate::json::json;
use crate::open::Logbook;
use crate::seal::{seal_lap, seal_session};
use crate::series;
use honest_lap_core::record::{
    Captured, LapBody, LapName, Outcome, RigFound, SessionAbout, SessionName, Settings, Task,
    VersionLine,
};
use honest_lap_core::unit::Nanos;
use rusqlite::{OptionalExtension, Transaction, params};

/// A session about to begin.
#[derive(Clone, Debug)]
pub struct NewSession<'a> {
    /// The rig.
    pub rig: &'a str,
    /// What marks its processes and tells it from every other session anywhere.
    pub mark: &'a str,
    /// When it begins, RFC 3339.
    pub started: &'a str,
    /// The seed of its order.
    pub seed: u64,
    /// The version of the tool.
    pub tool: &'a str,
    /// The machine as found.
    pub found: &'a RigFound,
    /// What the workloads' programs say of their version.
    pub versions: &'a [VersionLine],
    /// What else is known of it.
    pub about: &'a SessionAbout,
}

/// A session that is written to. It is held by its mark, which nothing changes: a merge meanwhile may give the
/// session another name, and its laps still are its own.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OpenSession {
    /// What it was called when it was begun or found.
    pub name: SessionName,
    pub(crate) mark: String,
}

impl OpenSession {
    /// Returns what tells it from every other session anywhere.
    pub fn mark(&self) -> &str {
        &self.mark
    }

    /// Returns the name of its lap `number`.
    pub fn lap(&self, number: u32) -> LapName {
        LapName { session: self.name.clone(), number }
    }
}

/// A lap that has ended.
#[derive(Clone, Copy, Debug)]
pub struct NewLap<'a> {
    /// Its number in its session.
    pub number: u32,
    /// Its workload.
    pub workload: &'a str,
    /// What its workload's task was.
    pub task: &'a Task,
    /// Its variant.
    pub settings: &'a Settings,
    /// Its round.
    pub round: u32,
    /// Whether it only warms up.
    pub warm_up: bool,
    /// What came of it.
    pub outcome: Outcome,
    /// Time from start to reap, if it was started.
    pub wall: Option<Nanos>,
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// The step in which its time was read by hand.
    pub step: Option<Nanos>,
    /// The rest.
    pub body: &'a LapBody,
}

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
        self.still_there()?;
        let (found, versions, about) = (json(new.found), json(new.versions), json(new.about));
        // Whoever else writes gives names too: this one is chosen once nobody else can.
        let tx = self.exclusively("write to")?;
        let number = self.names()?.next(new.rig)?;
        let run = || {
            tx.execute(
                "INSERT INTO session (rig, number, mark, started, seed, tool, found, versions, about)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
                params![
                    new.rig,
                    number,
                    new.mark,
                    new.started,
                    new.seed.cast_signed(),
                    new.tool,
                    found,
                    versions,
                    about
                ],
            )?;
            let id = tx.last_insert_rowid();
            seal_session(&tx, id)?;
            laps.iter().try_for_each(|lap| insert(&tx, id, lap))
        };
        run().and_then(|()| tx.commit()).map_err(|source| self.failed("write to", source))?;
        let name = SessionName { rig: new.rig.to_owned(), number };
        Ok(OpenSession { name, mark: new.mark.to_owned() })
    }

    /// Returns the session that is called `name` now, to be gone on with.
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
    if let Some(id) = known {
        return Ok(id);
    }
    tx.execute("INSERT INTO task (workload, form) VALUES (?1, ?2)", [workload, &form])?;
    Ok(tx.last_insert_rowid())
}

fn insert(tx: &Transaction<'_>, session: i64, lap: &NewLap<'_>) -> rusqlite::Result<()> {
    let task = task_id(tx, lap.workload, lap.task)?;
    let variant = variant_id(tx, lap.settings)?;
    tx.prepare_cached(
        "INSERT INTO lap (session, number, task, variant, round, warm_up, outcome, wall_ns, parts_ns,
             step_ns)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)",
    )?
    .execute(params![
        session,
        lap.number,
        task,
        variant,
        lap.round,
        lap.warm_up,
        lap.outcome.word(),
        lap.wall.map(|wall| wall.0.cast_signed()),
        lap.parts.map(|parts| parts.0.cast_signed()),
        lap.step.map(|step| step.0.cast_signed()),
    ])?;
    let id = tx.last_insert_rowid();
    let body = lap.body;
    let (traces, packed) = series::traces_text(&body.traces);
    let usage = body.usage.as_ref();
    let used = |of: fn(&honest_lap_core::record::Usage) -> u64| usage.map(|u| of(u).cast_signed());
    tx.prepare_cached(
        "INSERT INTO lap_detail (lap, started, reason, command, folder, exit_code, signal, user_ns,
             system_ns, peak_bytes, peak_floor_bytes, conditions, produced, left_behind, readings,
             traces)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16)",
    )?
    .execute(params![
        id,
        body.started,
        body.reason,
        json(&body.command),
        body.folder,
        body.exit_code,
        body.signal,
        used(|u| u.user.0),
        used(|u| u.system.0),
        used(|u| u.peak_bytes),
        used(|u| u.peak_floor_bytes),
        json(&body.conditions),
        json(&body.produced),
        json(&body.left_behind),
        json(&body.readings),
        traces,
    ])?;
    insert_output(tx, id, "stdout", &body.stdout)?;
    insert_output(tx, id, "stderr", &body.stderr)?;
    if let Some(pass) = &body.pass {
        frames::insert(tx, id, pass)?;
    }
    series::insert(tx, id, body, packed)?;
    seal_lap(tx, session, lap.number, id)
}

fn insert_output(
    tx: &Transaction<'_>,
    lap: i64,
    stream: &str,
    captured: &Captured,
) -> rusqlite::Result<()> {
    if captured.total == 0 {
        return Ok(());
    }
    tx.prepare_cached(
        "INSERT INTO output (lap, stream, head, tail, total) VALUES (?1, ?2, ?3, ?4, ?5)",
    )?
    .execute(params![
        lap,
        stream,
        captured.head,
        captured.tail,
        captured.total.cast_signed()
    ])?;
    Ok(())
}

fn variant_id(tx: &Transaction<'_>, settings: &Settings) -> rusqlite::Result<i64> {
    let text = json(settings);
    let known = tx
        .prepare_cached("SELECT id FROM variant WHERE settings = ?1")?
        .query_row([&text], |row| row.get(0))
        .optional()?;
    if let Some(id) = known {
        return Ok(id);
    }
    tx.execute("INSERT INTO variant (settings) VALUES (?1)", [&text])?;
    Ok(tx.last_insert_rowid())
}
