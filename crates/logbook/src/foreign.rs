//! What a file's schema holds that is not ours.

use crate::schema::MIGRATIONS;
use rusqlite::Connection;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::OnceLock;

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
    let foreign = foreign.map(|name| format!("{name}, which is not ours"));
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
