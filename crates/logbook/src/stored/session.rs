//! Sessions: one session on one rig.

use super::table::{Read, Role, Stored, Table, column, get, json, number, parsed, stored, text};
use crate::new::NewSession;
use honest_lap_core::record::{RigFound, SessionAbout, VersionLine};
use rusqlite::types::{Value, ValueRef};

/// A session that is written down, and the number that it gets.
pub(crate) struct SessionRow<'a> {
    pub number: u32,
    pub new: &'a NewSession<'a>,
}

/// A session as it stands here.
#[derive(Debug, Default)]
pub(crate) struct StoredSession {
    pub id: i64,
    pub rig: String,
    pub number: u32,
    pub mark: String,
    pub started: String,
    pub seed: i64,
    pub tool: String,
    pub found: RigFound,
    pub versions: Vec<VersionLine>,
    pub about: SessionAbout,
}

type Write = fn(&SessionRow<'_>) -> Value;
type Into = fn(&mut StoredSession, ValueRef<'_>) -> Read;

const COLUMNS: [Stored<Write, Into>; 10] = [
    stored(
        column("id", "INTEGER PRIMARY KEY", Role::Own),
        |_| Value::Null,
        |s, v| get(&mut s.id, v),
    ),
    stored(
        column("rig", "TEXT NOT NULL", Role::Sealed),
        |row| text(row.new.rig),
        |s, v| get(&mut s.rig, v),
    ),
    stored(
        column("number", "INTEGER NOT NULL CHECK (number > 0)", Role::Sealed),
        |row| number(row.number),
        |s, v| get(&mut s.number, v),
    ),
    stored(
        column("mark", "TEXT NOT NULL UNIQUE", Role::Sealed),
        |row| text(row.new.mark),
        |s, v| get(&mut s.mark, v),
    ),
    stored(
        column("started", "TEXT NOT NULL", Role::Sealed),
        |row| text(row.new.started),
        |s, v| get(&mut s.started, v),
    ),
    stored(
        column("seed", "INTEGER NOT NULL", Role::Sealed),
        |row| number(row.new.seed.cast_signed()),
        |s, v| get(&mut s.seed, v),
    ),
    stored(
        column("tool", "TEXT NOT NULL", Role::Sealed),
        |row| text(row.new.tool),
        |s, v| get(&mut s.tool, v),
    ),
    stored(
        column("found", "TEXT NOT NULL", Role::Sealed),
        |row| json(row.new.found),
        |s, v| parsed(&mut s.found, v, "a session's machine"),
    ),
    stored(
        column("versions", "TEXT NOT NULL", Role::Sealed),
        |row| json(row.new.versions),
        |s, v| parsed(&mut s.versions, v, "a session's versions"),
    ),
    stored(
        column("about", "TEXT NOT NULL", Role::Sealed).empty("{}"),
        |row| json(row.new.about),
        |s, v| parsed(&mut s.about, v, "what is known of a session"),
    ),
];

/// No constraint on names: logbooks that meet may both hold a `heron-3`, and names.rs tells them apart.
pub(crate) const SESSION: Table<Write, Into> =
    Table { name: "session", identity: &["mark"], ends: "", columns: &COLUMNS };
