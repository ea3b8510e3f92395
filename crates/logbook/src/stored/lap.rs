//! Laps: what sums need, and nothing else, so that summing up reads no more.

use super::table::{Read, Role, Stored, Table, column, get, maybe, number, stored, text, unsigned};
use crate::new::NewLap;
use honest_lap_core::record::Outcome;
use honest_lap_core::unit::Nanos;
use rusqlite::types::{Value, ValueRef};

/// A lap that is written down, and the numbers here of what it refers to.
pub(crate) struct LapRow<'a> {
    pub session: i64,
    pub task: i64,
    pub variant: i64,
    pub new: &'a NewLap<'a>,
}

/// A lap as it stands here, before its names are looked up.
#[derive(Debug, Default)]
pub(crate) struct RawLap {
    pub id: i64,
    pub session: i64,
    pub number: u32,
    pub task: u32,
    pub variant: i64,
    pub round: u32,
    pub warm_up: bool,
    /// None where its word is nobody's.
    pub outcome: Option<Outcome>,
    pub wall: Option<Nanos>,
    pub parts: Option<Nanos>,
    pub step: Option<Nanos>,
}

type Write = fn(&LapRow<'_>) -> Value;
type Into = fn(&mut RawLap, ValueRef<'_>) -> Read;

fn span(span: Option<Nanos>) -> Value {
    maybe(span.map(|span| span.0))
}

fn get_span(place: &mut Option<Nanos>, value: ValueRef<'_>) -> Read {
    *place = unsigned(value)?.map(Nanos);
    Ok(())
}

const COLUMNS: [Stored<Write, Into>; 11] = [
    stored(
        column("id", "INTEGER PRIMARY KEY", Role::Own),
        |_| Value::Null,
        |lap, v| get(&mut lap.id, v),
    ),
    stored(
        column("session", "INTEGER NOT NULL", Role::Of("session")),
        |row| number(row.session),
        |lap, v| get(&mut lap.session, v),
    ),
    stored(
        column("number", "INTEGER NOT NULL CHECK (number > 0)", Role::Sealed),
        |row| number(row.new.number),
        |lap, v| get(&mut lap.number, v),
    ),
    stored(
        column("task", "INTEGER NOT NULL", Role::Of("task")),
        |row| number(row.task),
        |lap, v| get(&mut lap.task, v),
    ),
    stored(
        column("variant", "INTEGER NOT NULL", Role::Of("variant")),
        |row| number(row.variant),
        |lap, v| get(&mut lap.variant, v),
    ),
    stored(
        column("round", "INTEGER NOT NULL", Role::Sealed),
        |row| number(row.new.round),
        |lap, v| get(&mut lap.round, v),
    ),
    stored(
        column("warm_up", "INTEGER NOT NULL CHECK (warm_up IN (0, 1))", Role::Sealed),
        |row| number(row.new.warm_up),
        |lap, v| get(&mut lap.warm_up, v),
    ),
    stored(
        column("outcome", "TEXT NOT NULL", Role::Sealed),
        |row| text(row.new.outcome.word()),
        |lap, v| {
            lap.outcome = Outcome::from_word(v.as_str()?);
            Ok(())
        },
    ),
    stored(
        column("wall_ns", "INTEGER CHECK (wall_ns >= 0)", Role::Sealed),
        |row| span(row.new.wall),
        |lap, v| get_span(&mut lap.wall, v),
    ),
    stored(
        column("parts_ns", "INTEGER CHECK (parts_ns >= 0)", Role::Sealed),
        |row| span(row.new.parts),
        |lap, v| get_span(&mut lap.parts, v),
    ),
    stored(
        column("step_ns", "INTEGER CHECK (step_ns >= 0)", Role::Sealed),
        |row| span(row.new.step),
        |lap, v| get_span(&mut lap.step, v),
    ),
];

pub(crate) const LAP: Table<Write, Into> = Table {
    name: "lap",
    identity: &["session", "number"],
    ends: "UNIQUE (session, number)",
    columns: &COLUMNS,
};
