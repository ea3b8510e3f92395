//! From format 6, whose tables grew one change at a time, to those that the lists make. Every value is kept.

use crate::hash::sha256;
use crate::stored::{CHUNK, Chunk, FIRST, Shape, schema, shapes};
use rusqlite::Connection;

/// The tables of format 6, those first that nothing refers to.
const OLD: [&str; 11] = [
    "seal",
    "remark",
    "frames",
    "series",
    "pass",
    "output",
    "lap_detail",
    "lap",
    "session",
    "task",
    "variant",
];

/// Tables whose rows are taken over as they are.
const SAME: [&str; 7] = ["task", "variant", "session", "lap", "lap_detail", "output", "pass"];

/// What takes over seals and remarks, in one order: a session's own seal before that of its first lap, remarks last.
const PLACED: &str = "
INSERT INTO seal (place, session, number, seal, form)
    SELECT row_number() OVER (ORDER BY ifnull(l.id, f.first), s.session, s.number),
        s.session, s.number, s.seal, s.form
    FROM seal_6 s
        LEFT JOIN lap_6 l ON l.session = s.session AND l.number = s.number
        LEFT JOIN (SELECT session, min(id) AS first FROM lap_6 GROUP BY session) f
            ON f.session = s.session;
INSERT INTO remark (place, mark, made, kind, subject, text, before, seal, form)
    SELECT (SELECT ifnull(max(place), 0) FROM seal) + row_number() OVER (ORDER BY id),
        mark, made, kind, subject, text, before, seal, 1
    FROM remark_6;
";

/// Makes format 7 of format 6, within a transaction, while references are off.
pub(crate) fn to_lists(db: &Connection) -> rusqlite::Result<()> {
    let mut statement = db.prepare(
        "SELECT 'DROP ' || type || ' ' || name FROM sqlite_schema
         WHERE type IN ('trigger', 'index') AND sql IS NOT NULL",
    )?;
    let drops: Vec<String> =
        statement.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
    drops.iter().try_for_each(|drop| db.execute_batch(drop))?;
    for table in OLD {
        db.execute_batch(&format!("ALTER TABLE {table} RENAME TO {table}_6"))?;
    }
    let shapes = shapes();
    db.execute_batch(&schema(&shapes))?;
    for shape in shapes.iter().filter(|shape| SAME.contains(&shape.name)) {
        db.execute_batch(&taken_over(shape))?;
    }
    for (table, series) in [("frames_6", "series"), ("series_6", "name")] {
        chunks(db, table, series)?;
    }
    db.execute_batch(PLACED)?;
    OLD.iter().try_for_each(|table| db.execute_batch(&format!("DROP TABLE {table}_6")))
}

fn taken_over(shape: &Shape) -> String {
    let first = shape.columns.iter().filter(|column| column.since == FIRST);
    let names = first.map(|column| column.name).collect::<Vec<_>>().join(", ");
    format!("INSERT INTO {0} ({names}) SELECT {names} FROM {0}_6", shape.name)
}

/// Takes over what was packed, each with its hash.
fn chunks(db: &Connection, table: &str, series: &str) -> rusqlite::Result<()> {
    let query = format!("SELECT lap, {series}, part, count, packed FROM {table} ORDER BY id");
    let mut statement = db.prepare(&query)?;
    let mut rows = statement.query([])?;
    while let Some(row) = rows.next()? {
        let packed: Vec<u8> = row.get(4)?;
        let chunk = Chunk {
            lap: row.get(0)?,
            series: row.get(1)?,
            part: row.get(2)?,
            count: row.get(3)?,
            sha256: sha256(&packed),
            packed,
        };
        CHUNK.insert(db, |write| write(&chunk))?;
    }
    Ok(())
}
