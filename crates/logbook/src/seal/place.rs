//! Where records stand: in this file, and anywhere.

use rusqlite::Connection;

/// Returns the place of the next record: behind every seal, remark and signature that is here.
pub(crate) fn next_place(db: &Connection) -> rusqlite::Result<i64> {
    let query = "SELECT 1 + max((SELECT ifnull(max(place), 0) FROM seal),
                                (SELECT ifnull(max(place), 0) FROM remark),
                                (SELECT ifnull(max(place), 0) FROM signature))";
    db.prepare_cached(query)?.query_row([], |row| row.get(0))
}

/// Returns what tells the session `session` from every other one anywhere.
pub(super) fn mark_of(db: &Connection, session: i64) -> rusqlite::Result<String> {
    db.prepare_cached("SELECT mark FROM session WHERE id = ?1")?
        .query_row([session], |row| row.get(0))
}
