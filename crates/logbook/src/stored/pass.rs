//! What is said of a lap's frames: where they come from, what they come to.

use super::table::{Read, Role, Stored, Table, column, get, json, number, parsed, stored};
use honest_lap_core::record::PassAbout;
use rusqlite::types::{Value, ValueRef};

/// The pass of the lap `lap`.
#[derive(Debug, Default)]
pub(crate) struct PassRow<A> {
    pub lap: i64,
    pub about: A,
}

type Write = fn(&PassRow<&PassAbout>) -> Value;
type Into = fn(&mut PassRow<Option<PassAbout>>, ValueRef<'_>) -> Read;

const COLUMNS: [Stored<Write, Into>; 2] = [
    stored(
        column("lap", "INTEGER PRIMARY KEY", Role::Of("lap")),
        |row| number(row.lap),
        |row, v| get(&mut row.lap, v),
    ),
    stored(
        column("about", "TEXT NOT NULL", Role::Sealed),
        |row| json(row.about),
        |row, v| parsed(&mut row.about, v, "what is said of a pass"),
    ),
];

pub(crate) const PASS: Table<Write, Into> =
    Table { name: "pass", identity: &["lap"], ends: "", columns: &COLUMNS };
