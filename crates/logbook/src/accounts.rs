//! What no seal accounts for: rows that belong to no sealed record, and parts of the schema that are not ours.
//!
//! Seals are read from sessions to their laps to all that laps refer to. Whatever is in the file and not on that
//! way would be in a seal's shadow, so it is looked for by itself.

use crate::error::LogbookError;
use crate::open::Logbook;
use crate::schema::MIGRATIONS;
use rusqlite::Connection;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::OnceLock;

/// For each table what a row of it is, and a query for the rows that no sealed record has: a key in words.
const STRAYS: [(&str, &str); 9] = [
    (
        "a lap without its session, task, variant or detail",
        "SELECT 'lap ' || l.id FROM lap l
             LEFT JOIN session s ON s.id = l.session
             LEFT JOIN task t ON t.id = l.task
             LEFT JOIN variant v ON v.id = l.variant
             LEFT JOIN lap_detail d ON d.lap = l.id
         WHERE s.id IS NULL OR t.id IS NULL OR v.id IS NULL OR d.lap IS NULL",
    ),
    (
        "the detail of no lap",
        "SELECT 'lap_detail ' || lap FROM lap_detail WHERE lap NOT IN (SELECT id FROM lap)",
    ),
    (
        "output of no lap",
        "SELECT 'output ' || lap || ' ' || stream FROM output
         WHERE lap NOT IN (SELECT id FROM lap) OR stream NOT IN ('stdout', 'stderr')",
    ),
    ("the pass of no lap", "SELECT 'pass ' || lap FROM pass WHERE lap NOT IN (SELECT id FROM lap)"),
    (
        "frames of no pass",
        "SELECT 'frames ' || id FROM frames WHERE lap NOT IN (SELECT lap FROM pass)",
    ),
    (
        "a series of no lap",
        "SELECT 'series ' || id FROM series WHERE lap NOT IN (SELECT id FROM lap)",
    ),
    (
        "a seal of no session",
        "SELECT 'seal ' || session || '.' || number FROM seal
         WHERE session NOT IN (SELECT id FROM session)",
    ),
    ("a task of no lap", "SELECT 'task ' || id FROM task WHERE id NOT IN (SELECT task FROM lap)"),
    (
        "a variant of no lap",
        "SELECT 'variant ' || id FROM variant WHERE id NOT IN (SELECT variant FROM lap)",
    ),
];

impl Logbook {
    /// Returns every row that no sealed record accounts for, in words: the first of each kind and how many there are.
    pub fn strays(&self) -> Result<Vec<String>, LogbookError> {
        let mut found = Vec::new();
        for (what, query) in STRAYS {
            let rows: Vec<String> = self.rows(query, &[], |row| row.get(0))?;
            let more = match rows.len() {
                0 => continue,
                1 => String::new(),
                several => format!(", and {} more", several - 1),
            };
            found.push(format!("{what} ({}{more})", rows[0]));
        }
        Ok(found)
    }
}

/// Everything that a schema holds: kind and name, and how it is made.
type Objects = BTreeMap<String, Option<String>>;

/// Returns the name of a table, index, trigger or view of `db` that is not as this tool writes `format`: one that is
/// foreign, else one that is made otherwise, else one that is missing.
pub(crate) fn foreign_object(db: &Connection, format: u32) -> rusqlite::Result<Option<String>> {
    let (ours, theirs) = (ours(format)?, objects(db)?);
    let foreign = theirs.keys().find(|name| !ours.contains_key(*name)).cloned();
    let otherwise = || {
        let unlike = theirs.iter().find(|(name, made)| ours.get(*name) != Some(made));
        unlike.map(|(name, _)| format!("{name}, made otherwise"))
    };
    let missing = || {
        let there: BTreeSet<&String> = theirs.keys().collect();
        let lacking = ours.keys().find(|name| !there.contains(name));
        lacking.map(|name| format!("no {name}"))
    };
    Ok(foreign.or_else(otherwise).or_else(missing))
}

fn objects(db: &Connection) -> rusqlite::Result<Objects> {
    let mut statement = db.prepare("SELECT type || ' ' || name, sql FROM sqlite_schema")?;
    let rows = statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?;
    rows.collect()
}

/// Returns what a logbook of `format` holds, worked out once.
fn ours(format: u32) -> rusqlite::Result<&'static Objects> {
    static BY_FORMAT: [OnceLock<Objects>; MIGRATIONS.len() + 1] =
        [const { OnceLock::new() }; MIGRATIONS.len() + 1];
    let known = &BY_FORMAT[(format as usize).min(MIGRATIONS.len())];
    if let Some(objects) = known.get() {
        return Ok(objects);
    }
    let made = Connection::open_in_memory()?;
    MIGRATIONS.iter().take(format as usize).try_for_each(|step| made.execute_batch(step))?;
    let made = objects(&made)?;
    Ok(known.get_or_init(|| made))
}
