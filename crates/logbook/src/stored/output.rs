//! What laps wrote to their standard output and standard error: head, tail, and how much there was.

use super::table::{Read, Role, Stored, Table, column, get, number, stored, text, unsigned};
use honest_lap_core::record::Captured;
use rusqlite::types::{Value, ValueRef};

/// A stream of the lap `lap`.
#[derive(Debug, Default)]
pub(crate) struct Output<C> {
    pub lap: i64,
    pub stream: String,
    pub captured: C,
}

type Write = fn(&Output<&Captured>) -> Value;
type Into = fn(&mut Output<Captured>, ValueRef<'_>) -> Read;

const COLUMNS: [Stored<Write, Into>; 5] = [
    stored(
        column("lap", "INTEGER NOT NULL", Role::Of("lap")),
        |row| number(row.lap),
        |row, v| get(&mut row.lap, v),
    ),
    stored(
        column("stream", "TEXT NOT NULL CHECK (stream IN ('stdout', 'stderr'))", Role::Sealed),
        |row| text(&row.stream),
        |row, v| get(&mut row.stream, v),
    ),
    stored(
        column("head", "BLOB NOT NULL", Role::Digested),
        |row| Value::Blob(row.captured.head.clone()),
        |row, v| get(&mut row.captured.head, v),
    ),
    stored(
        column("tail", "BLOB NOT NULL", Role::Digested),
        |row| Value::Blob(row.captured.tail.clone()),
        |row, v| get(&mut row.captured.tail, v),
    ),
    stored(
        column("total", "INTEGER NOT NULL", Role::Sealed),
        |row| number(row.captured.total.cast_signed()),
        |row, v| {
            row.captured.total = unsigned(v)?.unwrap_or_default();
            Ok(())
        },
    ),
];

pub(crate) const OUTPUT: Table<Write, Into> = Table {
    name: "output",
    identity: &["lap", "stream"],
    ends: "PRIMARY KEY (lap, stream)",
    columns: &COLUMNS,
};
