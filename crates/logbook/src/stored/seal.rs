//! Seals of sessions and laps, and signatures of sessions' heads.

use super::table::{Read, Role, Stored, Table, column, get, number, stored, text};
use rusqlite::types::{Value, ValueRef};

/// A seal: of the session itself where `number` is 0, of its lap where it is not.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct SealRow {
    pub place: i64,
    pub session: i64,
    pub number: u32,
    pub seal: String,
    /// Over which encoding it was made.
    pub form: u32,
}

type SealWrite = fn(&SealRow) -> Value;
type SealInto = fn(&mut SealRow, ValueRef<'_>) -> Read;

const SEAL_COLUMNS: [Stored<SealWrite, SealInto>; 5] = [
    stored(
        column("place", "INTEGER PRIMARY KEY", Role::Place),
        |row| number(row.place),
        |row, v| get(&mut row.place, v),
    ),
    stored(
        column("session", "INTEGER NOT NULL", Role::Of("session")),
        |row| number(row.session),
        |row, v| get(&mut row.session, v),
    ),
    stored(
        column("number", "INTEGER NOT NULL CHECK (number >= 0)", Role::Unsealed),
        |row| number(row.number),
        |row, v| get(&mut row.number, v),
    ),
    stored(
        column("seal", "TEXT NOT NULL", Role::Unsealed),
        |row| text(&row.seal),
        |row, v| get(&mut row.seal, v),
    ),
    stored(
        column("form", "INTEGER NOT NULL", Role::Unsealed),
        |row| number(row.form),
        |row, v| get(&mut row.form, v),
    ),
];

pub(crate) const SEAL: Table<SealWrite, SealInto> = Table {
    name: "seal",
    identity: &["session", "number"],
    ends: "UNIQUE (session, number)",
    columns: &SEAL_COLUMNS,
};

/// A signature of the seal `number` of a session: of all that was recorded of it up to there.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct SignatureRow {
    pub place: i64,
    pub session: i64,
    pub number: u32,
    /// The public key, in hexadecimal.
    pub key: String,
    pub signature: String,
}

type SignatureWrite = fn(&SignatureRow) -> Value;
type SignatureInto = fn(&mut SignatureRow, ValueRef<'_>) -> Read;

const SIGNATURE_COLUMNS: [Stored<SignatureWrite, SignatureInto>; 5] = [
    stored(
        column("place", "INTEGER PRIMARY KEY", Role::Place),
        |row| number(row.place),
        |row, v| get(&mut row.place, v),
    ),
    stored(
        column("session", "INTEGER NOT NULL", Role::Of("session")),
        |row| number(row.session),
        |row, v| get(&mut row.session, v),
    ),
    stored(
        column("number", "INTEGER NOT NULL CHECK (number >= 0)", Role::Sealed),
        |row| number(row.number),
        |row, v| get(&mut row.number, v),
    ),
    stored(
        column("key", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.key),
        |row, v| get(&mut row.key, v),
    ),
    stored(
        column("signature", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.signature),
        |row, v| get(&mut row.signature, v),
    ),
];

pub(crate) const SIGNATURE: Table<SignatureWrite, SignatureInto> = Table {
    name: "signature",
    identity: &["session", "number", "key"],
    ends: "UNIQUE (session, number, key)",
    columns: &SIGNATURE_COLUMNS,
};
