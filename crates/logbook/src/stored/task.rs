//! What laps are laps of: the forms of tasks, and variants. Both are written with their first lap.

use super::table::{Read, Role, Stored, Table, column, get, parsed, stored, text};
use honest_lap_core::record::Settings;
use rusqlite::types::{Value, ValueRef};

/// A form of a workload's task: everything that defines the work, as JSON.
#[derive(Debug, Default)]
pub(crate) struct TaskRow<T> {
    pub id: u32,
    pub workload: T,
    pub form: T,
}

type TaskWrite = fn(&TaskRow<&str>) -> Value;
type TaskInto = fn(&mut TaskRow<String>, ValueRef<'_>) -> Read;

const TASK_COLUMNS: [Stored<TaskWrite, TaskInto>; 3] = [
    stored(
        column("id", "INTEGER PRIMARY KEY", Role::Own),
        |_| Value::Null,
        |row, v| get(&mut row.id, v),
    ),
    stored(
        column("workload", "TEXT NOT NULL", Role::Sealed),
        |row| text(row.workload),
        |row, v| get(&mut row.workload, v),
    ),
    stored(
        column("form", "TEXT NOT NULL", Role::Digested),
        |row| text(row.form),
        |row, v| get(&mut row.form, v),
    ),
];

/// Laps of different forms are never summed up together.
pub(crate) const TASK: Table<TaskWrite, TaskInto> = Table {
    name: "task",
    identity: &["workload", "form"],
    ends: "UNIQUE (workload, form)",
    columns: &TASK_COLUMNS,
};

/// A variant as it stands here.
#[derive(Debug, Default)]
pub(crate) struct StoredVariant {
    pub id: i64,
    pub settings: Settings,
}

type VariantWrite = fn(&str) -> Value;
type VariantInto = fn(&mut StoredVariant, ValueRef<'_>) -> Read;

const VARIANT_COLUMNS: [Stored<VariantWrite, VariantInto>; 2] = [
    stored(
        column("id", "INTEGER PRIMARY KEY", Role::Own),
        |_| Value::Null,
        |row, v| get(&mut row.id, v),
    ),
    stored(column("settings", "TEXT NOT NULL UNIQUE", Role::Sealed), text, |row, v| {
        parsed(&mut row.settings, v, "a variant")
    }),
];

/// `settings` is a JSON list of name and value, sorted by name.
pub(crate) const VARIANT: Table<VariantWrite, VariantInto> =
    Table { name: "variant", identity: &["settings"], ends: "", columns: &VARIANT_COLUMNS };
