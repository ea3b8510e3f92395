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

/// A lap that has ended.
#[derive(Clone, Copy, Debug)]
pub struct NewLap<'a> {
    /// Its name.
    pub name: &'a LapName,
    /// The form of its workload's task, from [`Logbook::enter_task`].
    pub task: u32,
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
    /// Writes down the beginning of a session and returns its name.
    pub fn begin_session(&mut self, new: &NewSession<'_>) -> Result<SessionName, LogbookError> {
        let found = json(new.found);
        let versions = json(new.versions);
        let about = json(new.about);
        let number = self.names()?.last(new.rig) + 1;
        self.transact("write to", |tx| {
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
            seal_session(tx, tx.last_insert_rowid())
        })?;
        Ok(SessionName { rig: new.rig.to_owned(), number })
    }

    /// Returns the number of the form `task` of `workload`, entering it if it is new.
    pub fn enter_task(&mut self, workload: &str, task: &Task) -> Result<u32, LogbookError> {
        let form = json(task);
        self.transact("write to", |tx| {
            tx.execute(
                "INSERT INTO task (workload, form) VALUES (?1, ?2) ON CONFLICT DO NOTHING",
                [workload, &form],
            )?;
            tx.query_row(
                "SELECT id FROM task WHERE workload = ?1 AND form = ?2",
                [workload, &form],
                |row| row.get(0),
            )
        })
    }

    /// Appends a lap; when this returns, it is on the disk.
    pub fn append_lap(&mut self, lap: &NewLap<'_>) -> Result<(), LogbookError> {
        self.append_laps(std::slice::from_ref(lap))
    }

    /// Appends laps that were recorded before, all or none of them.
    pub fn append_laps(&mut self, laps: &[NewLap<'_>]) -> Result<(), LogbookError> {
        self.still_there()?;
        let names = self.names()?;
        let mut placed = Vec::new();
        for lap in laps {
            let session = &lap.name.session;
            let missing = || LogbookError::NoSuch { what: format!("session {session}") };
            placed.push((names.id(session).ok_or_else(missing)?, lap));
        }
        self.transact("write to", |tx| {
            placed.iter().try_for_each(|(session, lap)| insert(tx, *session, lap))
        })
    }

    pub(crate) fn transact<T>(
        &mut self,
        action: &'static str,
        work: impl FnOnce(&Transaction<'_>) -> rusqlite::Result<T>,
    ) -> Result<T, LogbookError> {
        let run = || {
            let tx = self.db.transaction_with_behavior(rusqlite::TransactionBehavior::Immediate)?;
            let made = work(&tx)?;
            tx.commit()?;
            Ok(made)
        };
        let result = run();
        result.map_err(|source| self.failed(action, source))
    }
}

fn insert(tx: &Transaction<'_>, session: i64, lap: &NewLap<'_>) -> rusqlite::Result<()> {
    let variant = variant_id(tx, lap.settings)?;
    tx.prepare_cached(
        "INSERT INTO lap (session, number, task, variant, round, warm_up, outcome, wall_ns, parts_ns,
             step_ns)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)",
    )?
    .execute(params![
        session,
        lap.name.number,
        lap.task,
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
    seal_lap(tx, session, lap.name.number, id)
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
