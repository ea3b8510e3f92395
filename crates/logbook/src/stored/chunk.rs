//! Series of whole numbers in parts, packed losslessly: frames, repetitions, long traces.

use super::table::{Read, Role, Stored, Table, column, get, number, stored, text};
use rusqlite::types::{Value, ValueRef};

/// A part of a series of the lap `lap`.
#[derive(Debug, Default)]
pub(crate) struct Chunk {
    pub lap: i64,
    pub series: String,
    pub part: u32,
    /// Numbers in it.
    pub count: u32,
    /// Of what is packed, in hexadecimal: the seal covers this list, so that a lap can be checked without its
    /// numbers at hand.
    pub sha256: String,
    pub packed: Vec<u8>,
}

type Write = fn(&Chunk) -> Value;
type Into = fn(&mut Chunk, ValueRef<'_>) -> Read;

const COLUMNS: [Stored<Write, Into>; 7] = [
    stored(column("id", "INTEGER PRIMARY KEY", Role::Own), |_| Value::Null, |_, _| Ok(())),
    stored(
        column("lap", "INTEGER NOT NULL", Role::Of("lap")),
        |row| number(row.lap),
        |row, v| get(&mut row.lap, v),
    ),
    stored(
        column("series", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.series),
        |row, v| get(&mut row.series, v),
    ),
    stored(
        column("part", "INTEGER NOT NULL CHECK (part >= 0)", Role::Sealed),
        |row| number(row.part),
        |row, v| get(&mut row.part, v),
    ),
    stored(
        column("count", "INTEGER NOT NULL CHECK (count > 0)", Role::Sealed),
        |row| number(row.count),
        |row, v| get(&mut row.count, v),
    ),
    stored(
        column("sha256", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.sha256),
        |row, v| get(&mut row.sha256, v),
    ),
    stored(
        column("packed", "BLOB NOT NULL", Role::Unsealed),
        |row| Value::Blob(row.packed.clone()),
        |row, v| get(&mut row.packed, v),
    ),
];

pub(crate) const CHUNK: Table<Write, Into> = Table {
    name: "chunk",
    identity: &["lap", "series", "part"],
    ends: "UNIQUE (lap, series, part)",
    columns: &COLUMNS,
};
