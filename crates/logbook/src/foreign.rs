//! What a file's schema holds that is not ours.

use crate::schema::{bring_up, newest};
use rusqlite::Connection;
use std::borrow::Cow;
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

/// Returns what a logbook of `format` holds; that of the newest is worked out once.
fn ours(format: u32) -> rusqlite::Result<Cow<'static, Objects>> {
    static NEWEST: OnceLock<Objects> = OnceLock::new();
    let make = || {
        let made = Connection::open_in_memory()?;
        bring_up(&made, 0, format)?;
        objects(&made)
    };
    match (format == newest(), NEWEST.get()) {
        (true, Some(known)) => Ok(Cow::Borrowed(known)),
        (true, None) => {
            let made = make()?;
            Ok(Cow::Borrowed(NEWEST.get_or_init(|| made)))
        }
        (false, _) => Ok(Cow::Owned(make()?)),
    }
}
