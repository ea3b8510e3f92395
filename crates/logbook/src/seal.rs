//! Seals: every record of a session is chained by hash to the one before it.
//!
//! ```text
//! seal(session)  = SHA-256("honest-lap session 2" ‖ fields)
//! seal(lap n)    = SHA-256("honest-lap lap 2" ‖ seal before it ‖ fields)
//! seal(logbook)  = SHA-256("honest-lap logbook 1" ‖ last seals of all sessions, seals of remarks,
//!                  sorted)
//! ```
//!
//! The chain runs within a session, because a session is written on one rig in one sitting:
//! sessions of several rigs can meet in one logbook and every chain stays whole. A field is
//! hashed with its type and length, so that no two records read the same. Seals of form 1, from
//! logbooks of format 1, say 1 for 2 and leave out what format 2 added, which must then be empty.
//! Source: FIPS 180-4.

use crate::error::LogbookError;
use crate::frames;
use crate::hash::{hash_fields, hex};
use crate::open::Logbook;
use crate::remark::SealedRemarks;
use crate::series;
use honest_lap_core::record::{LapName, SessionName};
use rusqlite::types::ValueRef;
use rusqlite::{Connection, Row, params};
use sha2::{Digest, Sha256};
use std::collections::BTreeMap;

/// The seals of a session, checked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SealedSession {
    /// The session.
    pub name: SessionName,
    /// How many laps it holds.
    pub laps: usize,
    /// Its last seal: it stands for the session and every lap of it.
    pub seal: String,
    /// The first record that is not as it was written; `None` if all are.
    pub broken: Option<Broken>,
}

/// A record that is not as it was written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Broken {
    /// The session's own record has changed.
    Session,
    /// The lap has changed, or one before it was taken out.
    Lap(LapName),
    /// The lap is gone; its seal is still there.
    Missing(LapName),
    /// The lap was put in without a seal.
    Unsealed(LapName),
}

impl std::fmt::Display for Broken {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Session => write!(f, "the session's own record has changed"),
            Self::Lap(lap) => write!(f, "lap {lap} has changed, or one before it was taken out"),
            Self::Missing(lap) => write!(f, "lap {lap} was taken out"),
            Self::Unsealed(lap) => write!(f, "lap {lap} was put in by something else"),
        }
    }
}

/// Everything a session's seal covers.
const SESSION_FIELDS: &str = "SELECT rig, number, mark, started, seed, tool, found, versions, about
     FROM session WHERE id = ?1";
/// How many of them a seal of form 1 covers.
const SESSION_FIELDS_1: usize = 8;

/// Everything a lap's seal covers: its record and all it refers to.
const LAP_FIELDS: &str = "SELECT s.mark, l.number, t.workload, t.form, v.settings, l.round,
         l.warm_up, l.outcome, l.wall_ns, d.started, d.reason, d.command, d.folder, d.exit_code,
         d.signal, d.user_ns, d.system_ns, d.peak_bytes, d.peak_floor_bytes, d.conditions,
         d.produced, d.left_behind, o.head, o.tail, o.total, e.head, e.tail, e.total,
         l.parts_ns, l.step_ns, d.readings, d.traces
     FROM lap l
         JOIN session s ON s.id = l.session
         JOIN task t ON t.id = l.task
         JOIN variant v ON v.id = l.variant
         JOIN lap_detail d ON d.lap = l.id
         LEFT JOIN output o ON o.lap = l.id AND o.stream = 'stdout'
         LEFT JOIN output e ON e.lap = l.id AND e.stream = 'stderr'";

/// How many of them a seal of form 1 covers.
const LAP_FIELDS_1: usize = 28;

/// The form of the seals that are written.
const FORM: u32 = 4;

/// Seals the session `id`, just written.
pub(crate) fn seal_session(db: &Connection, id: i64) -> rusqlite::Result<()> {
    let seal = session_seal(db, id, FORM)?;
    db.execute(
        "INSERT INTO seal (session, number, seal, form) VALUES (?1, 0, ?2, ?3)",
        params![id, seal, FORM],
    )?;
    Ok(())
}

/// Seals the lap `id`, just written as number `number` of `session`, to the record before it.
pub(crate) fn seal_lap(
    db: &Connection,
    session: i64,
    number: u32,
    id: i64,
) -> rusqlite::Result<()> {
    let before: String = db
        .prepare_cached(
            "SELECT seal FROM seal WHERE session = ?1 AND number < ?2 ORDER BY number DESC LIMIT 1",
        )?
        .query_row(params![session, number], |row| row.get(0))?;
    let seal =
        db.prepare_cached(&format!("{LAP_FIELDS} WHERE l.id = ?1"))?.query_row([id], |row| {
            let beside = Beside { pass: has_pass(db, id)?.then_some(id), series: Some(id) };
            lap_seal(db, row, &before, FORM, beside)
        })?;
    db.prepare_cached("INSERT INTO seal (session, number, seal, form) VALUES (?1, ?2, ?3, ?4)")?
        .execute(params![session, number, seal, FORM])?;
    Ok(())
}

fn has_pass(db: &Connection, lap: i64) -> rusqlite::Result<bool> {
    db.prepare_cached("SELECT EXISTS (SELECT 1 FROM pass WHERE lap = ?1)")?
        .query_row([lap], |row| row.get(0))
}

fn session_seal(db: &Connection, id: i64, form: u32) -> rusqlite::Result<String> {
    db.prepare_cached(SESSION_FIELDS)?.query_row([id], |row| {
        let mut hasher = Sha256::new_with_prefix(format!("honest-lap session {form}"));
        let holds = hash_row(row, &mut hasher, form, SESSION_FIELDS_1)?;
        Ok(if holds { hex(hasher) } else { NO_SEAL })
    })
}

/// What a lap may have besides its row: its number here, where it has it.
#[derive(Clone, Copy, Default)]
struct Beside {
    pass: Option<i64>,
    series: Option<i64>,
}

/// Returns the seal of a lap.
fn lap_seal(
    db: &Connection,
    row: &Row<'_>,
    before: &str,
    form: u32,
    beside: Beside,
) -> rusqlite::Result<String> {
    let mut hasher = Sha256::new_with_prefix(format!("honest-lap lap {form}"));
    hasher.update(before);
    let holds = hash_row(row, &mut hasher, form, LAP_FIELDS_1)?;
    match beside.pass {
        // What came with form 3 cannot be slipped into older laps.
        Some(_) if form < 3 => return Ok(NO_SEAL),
        Some(id) => frames::hash(db, id, &mut hasher)?,
        None => {}
    }
    // Nor what came with form 4.
    if let Some(id) = beside.series
        && series::hash(db, id, &mut hasher)?
        && form < 4
    {
        return Ok(NO_SEAL);
    }
    Ok(if holds { hex(hasher) } else { NO_SEAL })
}

/// No seal is empty, so this one does not hold.
const NO_SEAL: String = String::new();

/// Adds the fields of `row` to `hasher`: all of them, or with form 1 the `first` ones. Returns
/// whether those that the form does not cover hold nothing.
fn hash_row(row: &Row<'_>, hasher: &mut Sha256, form: u32, first: usize) -> rusqlite::Result<bool> {
    let columns = row.as_ref().column_count();
    let values = (0..columns).map(|at| row.get_ref(at)).collect::<rusqlite::Result<Vec<_>>>()?;
    let nothing = |value: &ValueRef<'_>| {
        matches!(value, ValueRef::Null) || matches!(value.as_bytes(), Ok(b"{}" | b"[]"))
    };
    let covered = if form >= 2 { columns } else { first };
    let holds = values[covered..].iter().all(nothing);
    hash_fields(values.into_iter().take(covered), hasher);
    Ok(holds)
}

impl Logbook {
    /// Returns every session with its seals checked, in the order written.
    ///
    /// What proves that nothing was taken off the end is a seal kept elsewhere: the logbook's
    /// own, [`Self::seal`], is printed for that.
    pub fn verify(&self) -> Result<Vec<SealedSession>, LogbookError> {
        let names = self.names()?;
        let run = || -> rusqlite::Result<Vec<SealedSession>> {
            // One view of the file for all of it, and no lock taken anew for every lap.
            let _view = self.db.unchecked_transaction()?;
            let mut statement = self.db.prepare("SELECT id FROM session ORDER BY id")?;
            let ids: Vec<i64> =
                statement.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
            let named = ids.iter().filter_map(|&id| Some((id, names.of(id)?.clone())));
            named.map(|(id, name)| self.check(id, name)).collect()
        };
        run().map_err(|source| self.failed("verify", source))
    }

    fn check(&self, id: i64, name: SessionName) -> rusqlite::Result<SealedSession> {
        let mut kept = self.kept_seals(id)?;
        let own = kept.remove(&0);
        let form = own.as_ref().map_or(FORM, |(_, form)| *form);
        let mut seal = session_seal(&self.db, id, form)?;
        let holds = own.is_some_and(|(written, _)| written == seal);
        let mut broken = (!holds).then_some(Broken::Session);
        let (passes, series) = (self.with("pass", id)?, self.with("series", id)?);
        // One query for a session: preparing it anew for each lap would cost more than the hashes.
        let mut statement =
            self.db.prepare(&format!("{LAP_FIELDS} WHERE l.session = ?1 ORDER BY l.number"))?;
        let mut rows = statement.query([id])?;
        let mut laps = 0;
        let lap = |number| LapName { session: name.clone(), number };
        while let Some(row) = rows.next()? {
            laps += 1;
            let number: u32 = row.get(1)?;
            let form = kept.get(&number).map_or(FORM, |(_, form)| *form);
            let beside =
                Beside { pass: passes.get(&number).copied(), series: series.get(&number).copied() };
            seal = lap_seal(&self.db, row, &seal, form, beside)?;
            let after = kept.split_off(&number);
            // A seal that is left over from below belongs to a lap that is gone.
            let gone = std::mem::replace(&mut kept, after).into_keys().next();
            let found = match (gone, kept.remove(&number)) {
                (Some(gone), _) => Some(Broken::Missing(lap(gone))),
                (None, None) => Some(Broken::Unsealed(lap(number))),
                (None, Some((written, _))) => (written != seal).then(|| Broken::Lap(lap(number))),
            };
            broken = broken.or(found);
        }
        let gone = kept.into_keys().next().map(|number| Broken::Missing(lap(number)));
        Ok(SealedSession { laps, seal, broken: broken.or(gone), name })
    }

    /// Returns the numbers here of the laps of a session that `table` has rows of, by their own.
    fn with(&self, table: &str, session: i64) -> rusqlite::Result<BTreeMap<u32, i64>> {
        let query = format!(
            "SELECT DISTINCT l.number, l.id FROM {table} x JOIN lap l ON l.id = x.lap
             WHERE l.session = ?1"
        );
        let mut statement = self.db.prepare_cached(&query)?;
        let rows = statement.query_map([session], |row| Ok((row.get(0)?, row.get(1)?)))?;
        rows.collect()
    }

    /// Returns the seals of a session as they were written and their forms, by number.
    fn kept_seals(&self, session: i64) -> rusqlite::Result<BTreeMap<u32, (String, u32)>> {
        let mut statement =
            self.db.prepare_cached("SELECT number, seal, form FROM seal WHERE session = ?1")?;
        let rows =
            statement.query_map([session], |row| Ok((row.get(0)?, (row.get(1)?, row.get(2)?))))?;
        rows.collect()
    }

    /// Returns whether `seal`, or what begins so from 16 digits on, is that of a record that is here: a session, a lap or a
    /// remark.
    pub fn has_seal(&self, seal: &str) -> Result<bool, LogbookError> {
        let query = "SELECT 1 FROM (SELECT seal FROM seal UNION ALL SELECT seal FROM remark)
                     WHERE length(?1) >= 16 AND substr(seal, 1, length(?1)) = ?1 LIMIT 1";
        Ok(self.one(query, &[&seal], |row| row.get::<_, u32>(0))?.is_some())
    }

    /// Returns the logbook's own seal: it stands for everything in `sessions` and `remarks`, in any
    /// order.
    pub fn seal(sessions: &[SealedSession], remarks: &SealedRemarks) -> String {
        let sessions = sessions.iter().map(|session| session.seal.as_str());
        let mut seals: Vec<&str> =
            sessions.chain(remarks.seals.iter().map(String::as_str)).collect();
        seals.sort_unstable();
        let mut hasher = Sha256::new_with_prefix("honest-lap logbook 1");
        for seal in seals {
            hasher.update(seal);
        }
        hex(hasher)
    }
}
