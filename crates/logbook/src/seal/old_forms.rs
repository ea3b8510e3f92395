//! Seals of forms 1 to 4, which logbooks of formats 1 to 6 hold: they are checked by their own rules, and made no more.
//!
//! ```text
//! seal(session)  = SHA-256("honest-lap session N" ‖ fields)
//! seal(lap n)    = SHA-256("honest-lap lap N" ‖ seal before it ‖ fields ‖ pass ‖ frames ‖ series)
//! seal(remark)   = SHA-256("honest-lap remark 1" ‖ seal of the remark before it ‖ fields)
//! seal(logbook)  = SHA-256("honest-lap logbook 1" ‖ last seals of all sessions, seals of remarks, sorted)
//! ```
//!
//! N is the form. A field is its type (a byte: 0 null, 1 integer, 3 text, 4 blob), its length (8 bytes, little end
//! first) and its bytes. A form leaves out what came with later ones, which must then hold nothing.

use crate::hash::hex;
use rusqlite::types::ValueRef;
use rusqlite::{Connection, Row};
use sha2::{Digest, Sha256};

/// The last of them.
pub(crate) const LAST: u32 = 4;

const SESSION: &str = "SELECT rig, number, mark, started, seed, tool, found, versions, about
     FROM session WHERE id = ?1";
/// How many of them a seal of form 1 covers.
const SESSION_1: usize = 8;

const LAP: &str = "SELECT s.mark, l.number, t.workload, t.form, v.settings, l.round,
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
         LEFT JOIN output e ON e.lap = l.id AND e.stream = 'stderr'
     WHERE l.id = ?1";
/// How many of them a seal of form 1 covers.
const LAP_1: usize = 28;

/// The series that were frames; the others were a table of their own.
const FRAMES: &str = "('shown', 'processor', 'graphics', 'presenting')";

/// No seal is empty, so this one does not hold.
const NO_SEAL: String = String::new();

/// Returns the seal of form `form` of the session `id`.
pub(crate) fn session(db: &Connection, id: i64, form: u32) -> rusqlite::Result<String> {
    db.prepare_cached(SESSION)?.query_row([id], |row| {
        let mut hasher = Sha256::new_with_prefix(format!("honest-lap session {form}"));
        let holds = add(row, &mut hasher, form, SESSION_1)?;
        Ok(if holds { hex(&hasher.finalize()) } else { NO_SEAL })
    })
}

/// Returns the seal of form `form` of the lap `id`, behind the record whose seal is `before`.
pub(crate) fn lap(db: &Connection, id: i64, before: &str, form: u32) -> rusqlite::Result<String> {
    let mut hasher = Sha256::new_with_prefix(format!("honest-lap lap {form}"));
    hasher.update(before);
    let mut holds =
        db.prepare_cached(LAP)?.query_row([id], |row| add(row, &mut hasher, form, LAP_1))?;
    // Passes came with form 3, other series with form 4: neither can be slipped into older laps.
    let passes = pass(db, id, &mut hasher)?;
    let frames = chunks(db, id, &format!("series IN {FRAMES}"), "", &mut hasher)?;
    let others = chunks(db, id, &format!("series NOT IN {FRAMES}"), "series", &mut hasher)?;
    holds &= (form >= 3 || !passes) && (form >= 4 || !others) && (passes || !frames);
    Ok(if holds { hex(&hasher.finalize()) } else { NO_SEAL })
}

fn pass(db: &Connection, id: i64, hasher: &mut Sha256) -> rusqlite::Result<bool> {
    let mut statement = db.prepare_cached("SELECT about FROM pass WHERE lap = ?1")?;
    let mut rows = statement.query([id])?;
    let Some(row) = rows.next()? else { return Ok(false) };
    let about = row.get_ref(0)?.as_bytes()?;
    hasher.update((about.len() as u64).to_le_bytes());
    hasher.update(about);
    Ok(true)
}

/// Adds the chunks of a lap that `which` says, with `word` before them; returns whether there are any.
fn chunks(
    db: &Connection,
    id: i64,
    which: &str,
    word: &str,
    hasher: &mut Sha256,
) -> rusqlite::Result<bool> {
    let mut statement = db.prepare_cached(&format!(
        "SELECT series, part, count, packed FROM chunk WHERE lap = ?1 AND {which} ORDER BY series, part"
    ))?;
    let mut rows = statement.query([id])?;
    let mut any = false;
    while let Some(row) = rows.next()? {
        if !any {
            hasher.update(word);
        }
        any = true;
        for at in 0..4 {
            field(row.get_ref(at)?, hasher);
        }
    }
    Ok(any)
}

/// Returns the seal of form 1 of a remark.
pub(crate) fn remark(before: &str, fields: &[&str]) -> String {
    let mut hasher = Sha256::new_with_prefix("honest-lap remark 1");
    hasher.update(before);
    fields.iter().for_each(|text| field(ValueRef::Text(text.as_bytes()), &mut hasher));
    hex(&hasher.finalize())
}

/// Returns the seal that stood for a whole logbook, of the `last` seals of its sessions and those of its remarks.
pub(crate) fn logbook(mut last: Vec<&str>) -> String {
    last.sort_unstable();
    let mut hasher = Sha256::new_with_prefix("honest-lap logbook 1");
    last.iter().for_each(|seal| hasher.update(seal));
    hex(&hasher.finalize())
}

/// Adds the fields of `row`: all of them, or with form 1 the `first` ones. Returns whether those that the form does
/// not cover hold nothing.
fn add(row: &Row<'_>, hasher: &mut Sha256, form: u32, first: usize) -> rusqlite::Result<bool> {
    let columns = row.as_ref().column_count();
    let values = (0..columns).map(|at| row.get_ref(at)).collect::<rusqlite::Result<Vec<_>>>()?;
    let nothing = |value: &ValueRef<'_>| {
        matches!(value, ValueRef::Null) || matches!(value.as_bytes(), Ok(b"{}" | b"[]"))
    };
    let covered = if form >= 2 { columns } else { first };
    let holds = values[covered..].iter().all(nothing);
    values.into_iter().take(covered).for_each(|value| field(value, hasher));
    Ok(holds)
}

fn field(value: ValueRef<'_>, hasher: &mut Sha256) {
    let number;
    let (kind, bytes): (u8, &[u8]) = match value {
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
