//! Remarks: what people say.

use super::table::{Read, Role, Stored, Table, column, get, number, stored, text};
use rusqlite::types::{Value, ValueRef};

/// A remark as it is kept.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct RemarkRow {
    pub place: i64,
    pub mark: String,
    pub made: String,
    pub kind: String,
    /// JSON; names sessions by their marks.
    pub subject: String,
    pub text: String,
    /// The seal of the remark before it when it was made; empty for the first.
    pub before: String,
    pub seal: String,
    /// Over which encoding it is sealed.
    pub form: u32,
}

type Write = fn(&RemarkRow) -> Value;
type Into = fn(&mut RemarkRow, ValueRef<'_>) -> Read;

const COLUMNS: [Stored<Write, Into>; 9] = [
    stored(
        column("place", "INTEGER PRIMARY KEY", Role::Place),
        |row| number(row.place),
        |row, v| get(&mut row.place, v),
    ),
    stored(
        column("mark", "TEXT NOT NULL UNIQUE", Role::Sealed),
        |row| text(&row.mark),
        |row, v| get(&mut row.mark, v),
    ),
    stored(
        column("made", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.made),
        |row, v| get(&mut row.made, v),
    ),
    stored(
        column("kind", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.kind),
        |row, v| get(&mut row.kind, v),
    ),
    stored(
        column("subject", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.subject),
        |row, v| get(&mut row.subject, v),
    ),
    stored(
        column("text", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.text),
        |row, v| get(&mut row.text, v),
    ),
    stored(
        column("before", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.before),
        |row, v| get(&mut row.before, v),
    ),
    stored(
        column("seal", "TEXT NOT NULL UNIQUE", Role::Unsealed),
        |row| text(&row.seal),
        |row, v| get(&mut row.seal, v),
    ),
    stored(
        column("form", "INTEGER NOT NULL", Role::Unsealed),
        |row| number(row.form),
        |row, v| get(&mut row.form, v),
    ),
];

pub(crate) const REMARK: Table<Write, Into> =
    Table { name: "remark", identity: &["mark"], ends: "", columns: &COLUMNS };
