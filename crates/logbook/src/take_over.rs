//! Taking over the rows of another logbook, attached as `other`: as they are, with the numbers corrected that are this
//! file's own.

use crate::seal::next_place;
use crate::stored::{Column, Role, Shape, shapes};
use rusqlite::Connection;

/// Takes over every row that is not here yet. What both have is the same: that was checked.
pub(crate) fn take_over(db: &Connection) -> rusqlite::Result<()> {
    let behind = next_place(db)? - 1;
    let shapes = shapes();
    for shape in &shapes {
        db.execute(&rows(shape, behind), [])?;
        if shape.has_own()
            && shapes.iter().any(|other| other.refers().any(|(_, of)| of == shape.name))
        {
            db.execute_batch(&numbers(shape))?;
        }
    }
    let kept = shapes.iter().map(|shape| format!("DROP TABLE IF EXISTS temp.{};", map(shape.name)));
    db.execute_batch(&kept.collect::<String>())
}

/// The table that says which number here a row there has.
fn map(table: &str) -> String {
    format!("number_of_{table}")
}

/// Returns a query that takes over the rows of a table, in the order in which they came, behind place `behind`.
fn rows(shape: &Shape, behind: i64) -> String {
    let taken = shape.columns.iter().filter(|column| column.role != Role::Own);
    let (names, values): (Vec<&str>, Vec<String>) =
        taken.clone().map(|column| (column.name, value(column, behind))).unzip();
    let order = taken.clone().find(|column| column.role == Role::Place).map(|column| column.name);
    let order = if shape.has_own() { "id" } else { order.unwrap_or(shape.identity[0]) };
    format!(
        "INSERT INTO main.{0} ({1}) SELECT {2} FROM other.{0} o {3} WHERE true ORDER BY o.{order}
         ON CONFLICT ({4}) DO NOTHING",
        shape.name,
        names.join(", "),
        values.join(", "),
        joins(shape),
        shape.identity.join(", "),
    )
}

fn value(column: &Column, behind: i64) -> String {
    match column.role {
        Role::Of(_) => format!("{}_.ours", column.name),
        Role::Place => format!("o.{} + {behind}", column.name),
        _ => format!("o.{}", column.name),
    }
}

/// Returns what finds the numbers here of what the rows `o` of a table refer to.
fn joins(shape: &Shape) -> String {
    let joins = shape.refers().map(|(column, of)| {
        format!("JOIN temp.{} {column}_ ON {column}_.theirs = o.{column}", map(of))
    });
    joins.collect::<Vec<_>>().join(" ")
}

/// Returns what writes down the number here of every row of a table there.
fn numbers(shape: &Shape) -> String {
    let same = shape.identity.iter().filter_map(|name| {
        let column = shape.columns.iter().find(|column| column.name == *name)?;
        Some(format!("m.{name} = {}", value(column, 0)))
    });
    let same = same.collect::<Vec<_>>().join(" AND ");
    format!(
        "CREATE TEMP TABLE {0} (theirs INTEGER PRIMARY KEY, ours INTEGER NOT NULL);
         INSERT INTO temp.{0} SELECT o.id, m.id FROM other.{1} o {2} JOIN main.{1} m ON {same};",
        map(shape.name),
        shape.name,
        joins(shape),
    )
}
