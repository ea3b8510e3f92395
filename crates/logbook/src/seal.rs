//! Seals: every record of a session is chained by hash to the one before it.
//!
//! ```text
//! seal(session)  = SHA-256("honest-lap session 1" ‖ fields)
//! seal(lap n)    = SHA-256("honest-lap lap 1" ‖ seal before it ‖ fields)
//! seal(logbook)  = SHA-256("honest-lap logbook 1" ‖ last seals of all sessions, sorted)
//! ```
//!
//! The chain runs within a session, because a session is written on one rig in one sitting:
//! sessions of several rigs can meet in one logbook and every chain stays whole. A field is
//! hashed with its type and length, so that no two records read the same. Source: FIPS 180-4.

use crate::error::LogbookError;
use crate::open::Logbook;
use honest_lap_core::lap::LapName;
use honest_lap_core::session::SessionName;
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

/// Everything a session's seal covers.
const SESSION_FIELDS: &str = "SELECT rig, number, mark, started, seed, tool, found, versions
     FROM session WHERE id = ?1";

/// Everything a lap's seal covers: its record and all it refers to.
const LAP_FIELDS: &str = "SELECT s.mark, l.number, t.workload, t.form, v.settings, l.round,
         l.warm_up, l.outcome, l.wall_ns, d.started, d.reason, d.command, d.folder, d.exit_code,
         d.signal, d.user_ns, d.system_ns, d.peak_bytes, d.peak_floor_bytes, d.conditions,
         d.produced, d.left_behind, o.head, o.tail, o.total, e.head, e.tail, e.total
     FROM lap l
         JOIN session s ON s.id = l.session
         JOIN task t ON t.id = l.task
         JOIN variant v ON v.id = l.variant
         JOIN lap_detail d ON d.lap = l.id
         LEFT JOIN output o ON o.lap = l.id AND o.stream = 'stdout'
         LEFT JOIN output e ON e.lap = l.id AND e.stream = 'stderr'";

/// Seals the session `id`, just written.
pub(crate) fn seal_session(db: &Connection, id: i64) -> rusqlite::Result<()> {
    let seal = session_seal(db, id)?;
    db.execute("INSERT INTO seal (session, number, seal) VALUES (?1, 0, ?2)", params![id, seal])?;
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
    let seal = db
        .prepare_cached(&format!("{LAP_FIELDS} WHERE l.id = ?1"))?
        .query_row([id], |row| lap_seal(row, &before))?;
    db.prepare_cached("INSERT INTO seal (session, number, seal) VALUES (?1, ?2, ?3)")?
        .execute(params![session, number, seal])?;
    Ok(())
}

fn session_seal(db: &Connection, id: i64) -> rusqlite::Result<String> {
    let mut hasher = Sha256::new_with_prefix("honest-lap session 1");
    db.prepare_cached(SESSION_FIELDS)?.query_row([id], |row| hash_fields(row, &mut hasher))?;
    Ok(hex(hasher))
}

fn lap_seal(row: &Row<'_>, before: &str) -> rusqlite::Result<String> {
    let mut hasher = Sha256::new_with_prefix("honest-lap lap 1");
    hasher.update(before);
    hash_fields(row, &mut hasher)?;
    Ok(hex(hasher))
}

fn hash_fields(row: &Row<'_>, hasher: &mut Sha256) -> rusqlite::Result<()> {
    for column in 0..row.as_ref().column_count() {
        let number;
        let (kind, bytes): (u8, &[u8]) = match row.get_ref(column)? {
            ValueRef::Null => (0, &[]),
            ValueRef::Integer(value) => {
                number = value.to_le_bytes();
                (1, &number)
            }
            ValueRef::Real(value) => {
                number = value.to_le_bytes();
                (2, &number)
            }
            ValueRef::Text(text) => (3, text),
            ValueRef::Blob(blob) => (4, blob),
        };
        hasher.update([kind]);
        hasher.update((bytes.len() as u64).to_le_bytes());
        hasher.update(bytes);
    }
    Ok(())
}

fn hex(hasher: Sha256) -> String {
    hasher.finalize().iter().map(|byte| format!("{byte:02x}")).collect()
}

impl Logbook {
    /// Returns every session with its seals checked, in the order written.
    ///
    /// What proves that nothing was taken off the end is a seal kept elsewhere: the logbook's
    /// own, [`Self::seal`], is printed for that.
    pub fn verify(&self) -> Result<Vec<SealedSession>, LogbookError> {
        let run = || -> rusqlite::Result<Vec<SealedSession>> {
            // One view of the file for all of it, and no lock taken anew for every lap.
            let _view = self.db.unchecked_transaction()?;
            let mut statement =
                self.db.prepare("SELECT id, rig, number FROM session ORDER BY id")?;
            let sessions = statement.query_map([], |row| {
                let name = SessionName { rig: row.get(1)?, number: row.get(2)? };
                Ok((row.get::<_, i64>(0)?, name))
            })?;
            sessions.map(|session| session.and_then(|(id, name)| self.check(id, name))).collect()
        };
        run().map_err(|source| self.failed("verify", source))
    }

    fn check(&self, id: i64, name: SessionName) -> rusqlite::Result<SealedSession> {
        let mut kept = self.kept_seals(id)?;
        let mut seal = session_seal(&self.db, id)?;
        let mut broken = (kept.remove(&0).as_ref() != Some(&seal)).then_some(Broken::Session);
        // One query for a session: preparing it anew for each lap would cost more than the hashes.
        let mut statement =
            self.db.prepare(&format!("{LAP_FIELDS} WHERE l.session = ?1 ORDER BY l.number"))?;
        let mut rows = statement.query([id])?;
        let mut laps = 0;
        let lap = |number| LapName { session: name.clone(), number };
        while let Some(row) = rows.next()? {
            laps += 1;
            let number: u32 = row.get(1)?;
            seal = lap_seal(row, &seal)?;
            let after = kept.split_off(&number);
            // A seal that is left over from below belongs to a lap that is gone.
            let gone = std::mem::replace(&mut kept, after).into_keys().next();
            let found = match (gone, kept.remove(&number)) {
                (Some(gone), _) => Some(Broken::Missing(lap(gone))),
                (None, None) => Some(Broken::Unsealed(lap(number))),
                (None, Some(written)) => (written != seal).then(|| Broken::Lap(lap(number))),
            };
            broken = broken.or(found);
        }
        let gone = kept.into_keys().next().map(|number| Broken::Missing(lap(number)));
        Ok(SealedSession { laps, seal, broken: broken.or(gone), name })
    }

    /// Returns the seals of a session as they were written, by number.
    fn kept_seals(&self, session: i64) -> rusqlite::Result<BTreeMap<u32, String>> {
        let mut statement =
            self.db.prepare_cached("SELECT number, seal FROM seal WHERE session = ?1")?;
        let rows = statement.query_map([session], |row| Ok((row.get(0)?, row.get(1)?)))?;
        rows.collect()
    }

    /// Returns the logbook's own seal: it stands for everything in `sessions`, in any order.
    pub fn seal(sessions: &[SealedSession]) -> String {
        let mut seals: Vec<&str> = sessions.iter().map(|session| session.seal.as_str()).collect();
        seals.sort_unstable();
        let mut hasher = Sha256::new_with_prefix("honest-lap logbook 1");
        for seal in seals {
            hasher.update(seal);
        }
        hex(hasher)
    }
}
