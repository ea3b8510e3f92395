//! Rows on their way: a logbook's values as arrays that one statement takes, and a server's row as a logbook's values.

use crate::schema::{Kind, SCHEMA};
use honest_lap_logbook::carry::{Column, Value};
use postgres::Row;
use postgres::types::ToSql;

/// A column of rows, as one value of a statement.
pub(crate) type Array = Box<dyn ToSql + Sync>;

/// Returns the statement that inserts rows given as [`arrays`].
pub(crate) fn insert(table: &str, columns: &[Column]) -> String {
    let names: Vec<&str> = columns.iter().map(|column| column.name).collect();
    format!(
        "INSERT INTO {SCHEMA}.{table} ({}) SELECT * FROM {}",
        names.join(", "),
        unnested(columns)
    )
}

/// Returns what unfolds rows that are given as [`arrays`].
pub(crate) fn unnested(columns: &[Column]) -> String {
    let arrays: Vec<String> = (1..)
        .zip(columns)
        .map(|(at, column)| format!("${at}::{}[]", Kind::of(column).word()))
        .collect();
    format!("unnest({})", arrays.join(", "))
}

/// Returns `rows` column by column.
pub(crate) fn arrays(columns: &[Column], rows: &[Vec<Value>]) -> Vec<Array> {
    let one = |(at, column): (usize, &Column)| -> Array {
        let of = rows.iter().map(|row| row.get(at));
        match Kind::of(column) {
            Kind::Number => Box::new(of.map(number).collect::<Vec<_>>()),
            Kind::Text => Box::new(of.map(text).collect::<Vec<_>>()),
            Kind::Bytes => Box::new(of.map(bytes).collect::<Vec<_>>()),
        }
    };
    columns.iter().enumerate().map(one).collect()
}

/// Returns arrays as a statement takes them.
pub(crate) fn taken(arrays: &[Array]) -> Vec<&(dyn ToSql + Sync)> {
    arrays.iter().map(|array| &**array).collect()
}

/// Returns a value's text, where it is one.
pub(crate) fn as_text(value: Value) -> Option<String> {
    match value {
        Value::Text(text) => Some(text),
        _ => None,
    }
}

fn number(value: Option<&Value>) -> Option<i64> {
    match value {
        Some(Value::Integer(number)) => Some(*number),
        _ => None,
    }
}

fn text(value: Option<&Value>) -> Option<String> {
    match value {
        Some(Value::Text(text)) => Some(text.clone()),
        _ => None,
    }
}

fn bytes(value: Option<&Value>) -> Option<Vec<u8>> {
    match value {
        Some(Value::Blob(bytes)) => Some(bytes.clone()),
        _ => None,
    }
}

/// Returns a row of the server as a logbook's values, of which each is of one of `kinds`.
pub(crate) fn values(kinds: &[Kind], row: &Row) -> Result<Vec<Value>, postgres::Error> {
    let value = |(at, kind): (usize, &Kind)| {
        Ok(match kind {
            Kind::Number => row.try_get::<_, Option<i64>>(at)?.map(Value::Integer),
            Kind::Text => row.try_get::<_, Option<String>>(at)?.map(Value::Text),
            Kind::Bytes => row.try_get::<_, Option<Vec<u8>>>(at)?.map(Value::Blob),
        }
        .unwrap_or(Value::Null))
    };
    kinds.iter().enumerate().map(value).collect()
}
