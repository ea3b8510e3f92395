//! The detail of laps: everything that stands in one row and that no sum needs.

use super::table::{
    Column, Read, Role, Stored, Table, column, get, json, maybe, maybe_text, number, parsed,
    stored, text, unsigned,
};
use honest_lap_core::endurance::Endured;
use honest_lap_core::record::{LapBody, Usage};
use honest_lap_core::unit::Nanos;
use rusqlite::types::{Value, ValueRef};

/// The detail of the lap `lap`; its traces are text, or text that says what is packed beside it (series.rs).
#[derive(Debug, Default)]
pub(crate) struct DetailRow<B> {
    pub lap: i64,
    pub body: B,
    pub traces: String,
    /// What it comes to, where it is an endurance lap.
    pub endured: Option<Endured>,
}

type Write = fn(&DetailRow<&LapBody>) -> Value;
type Into = fn(&mut DetailRow<LapBody>, ValueRef<'_>) -> Read;

fn used(row: &DetailRow<&LapBody>, of: fn(&Usage) -> u64) -> Value {
    maybe(row.body.usage.as_ref().map(of))
}

/// Reads what was accounted to a lap that has processor time: a lap that was never started has none.
fn get_used(row: &mut DetailRow<LapBody>, value: ValueRef<'_>, put: fn(&mut Usage, u64)) -> Read {
    if let (Some(usage), Some(value)) = (row.body.usage.as_mut(), unsigned(value)?) {
        put(usage, value);
    }
    Ok(())
}

const COLUMNS: [Stored<Write, Into>; 17] = [
    stored(
        column("lap", "INTEGER PRIMARY KEY", Role::Of("lap")),
        |row| number(row.lap),
        |row, v| get(&mut row.lap, v),
    ),
    stored(
        column("started", "TEXT NOT NULL", Role::Sealed),
        |row| text(&row.body.started),
        |row, v| get(&mut row.body.started, v),
    ),
    stored(
        column("reason", "TEXT", Role::Sealed),
        |row| maybe_text(row.body.reason.as_deref()),
        |row, v| get(&mut row.body.reason, v),
    ),
    stored(
        column("command", "TEXT NOT NULL", Role::Sealed).empty("[]"),
        |row| json(&row.body.command),
        |row, v| parsed(&mut row.body.command, v, "the command of a lap"),
    ),
    stored(
        column("folder", "TEXT NOT NULL", Role::Sealed).empty(""),
        |row| text(&row.body.folder),
        |row, v| get(&mut row.body.folder, v),
    ),
    stored(
        column("exit_code", "INTEGER", Role::Sealed),
        |row| row.body.exit_code.into(),
        |row, v| get(&mut row.body.exit_code, v),
    ),
    stored(
        column("signal", "INTEGER", Role::Sealed),
        |row| row.body.signal.into(),
        |row, v| get(&mut row.body.signal, v),
    ),
    stored(
        column("user_ns", "INTEGER", Role::Sealed),
        |row| used(row, |usage| usage.user.0),
        |row, v| {
            let user = |user| Usage { user: Nanos(user), ..Usage::default() };
            row.body.usage = unsigned(v)?.map(user);
            Ok(())
        },
    ),
    stored(
        column("system_ns", "INTEGER", Role::Sealed),
        |row| used(row, |usage| usage.system.0),
        |row, v| get_used(row, v, |usage, value| usage.system = Nanos(value)),
    ),
    stored(
        column("peak_bytes", "INTEGER", Role::Sealed),
        |row| used(row, |usage| usage.peak_bytes),
        |row, v| get_used(row, v, |usage, value| usage.peak_bytes = value),
    ),
    stored(
        column("peak_floor_bytes", "INTEGER", Role::Sealed),
        |row| used(row, |usage| usage.peak_floor_bytes),
        |row, v| get_used(row, v, |usage, value| usage.peak_floor_bytes = value),
    ),
    stored(
        column("conditions", "TEXT NOT NULL", Role::Sealed),
        |row| json(&row.body.conditions),
        |row, v| parsed(&mut row.body.conditions, v, "the conditions of a lap"),
    ),
    stored(
        column("produced", "TEXT NOT NULL", Role::Sealed).empty("[]"),
        |row| json(&row.body.produced),
        |row, v| parsed(&mut row.body.produced, v, "the products of a lap"),
    ),
    stored(
        column("left_behind", "TEXT NOT NULL", Role::Sealed).empty("[]"),
        |row| json(&row.body.left_behind),
        |row, v| parsed(&mut row.body.left_behind, v, "what a lap left behind"),
    ),
    stored(
        column("readings", "TEXT NOT NULL", Role::Sealed).empty("[]"),
        |row| json(&row.body.readings),
        |row, v| parsed(&mut row.body.readings, v, "the readings of a lap"),
    ),
    stored(
        column("traces", "TEXT NOT NULL", Role::Digested).empty("{}"),
        |row| text(&row.traces),
        |row, v| get(&mut row.traces, v),
    ),
    stored(
        Column { since: 8, ..column("endured", "TEXT", Role::Sealed) },
        |row| row.endured.as_ref().map_or(Value::Null, json),
        |row, v| match v {
            ValueRef::Null => Ok(()),
            some => parsed(&mut row.endured, some, "what an endurance lap comes to"),
        },
    ),
];

pub(crate) const DETAIL: Table<Write, Into> =
    Table { name: "lap_detail", identity: &["lap"], ends: "", columns: &COLUMNS };
