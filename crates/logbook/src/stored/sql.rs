//! The schema that follows from the lists of columns.

use super::table::{Column, FIRST, Role, Shape};
use std::fmt::Write;

/// Most laps have no readings: this finds the others without a look at every lap.
const READINGS: &str =
    "CREATE INDEX lap_with_readings ON lap_detail (lap) WHERE readings <> '[]';\n";

/// Returns what makes every table of `shapes` in the first format that is made from lists, in order.
pub(crate) fn schema(shapes: &[Shape]) -> String {
    let mut made = String::new();
    for shape in shapes {
        let first = shape.columns.iter().filter(|column| column.since == FIRST);
        let mut lines: Vec<String> = first.map(defined).collect();
        if !shape.ends.is_empty() {
            lines.push(shape.ends.to_owned());
        }
        let without = if shape.ends.starts_with("PRIMARY KEY") { ", WITHOUT ROWID" } else { "" };
        let lines = lines.join(",\n    ");
        let _ = writeln!(made, "CREATE TABLE {} (\n    {lines}\n) STRICT{without};", shape.name);
        for (what, when, never) in [("keeps", "UPDATE", "altered"), ("stays", "DELETE", "deleted")]
        {
            let name = shape.name;
            let _ = writeln!(
                made,
                "CREATE TRIGGER {name}_{what} BEFORE {when} ON {name} BEGIN SELECT RAISE(ABORT, 'what is recorded is never {never}'); END;"
            );
        }
    }
    made.push_str(READINGS);
    made
}

/// Returns what makes format `format` of the one before it: the columns that came with it.
pub(crate) fn additions(shapes: &[Shape], format: u32) -> String {
    let mut made = String::new();
    for shape in shapes {
        for column in shape.columns.iter().filter(|column| column.since == format) {
            let _ = writeln!(made, "ALTER TABLE {} ADD COLUMN {};", shape.name, defined(column));
        }
    }
    made
}

fn defined(column: &Column) -> String {
    let refers = match column.role {
        Role::Of(table) => format!(" REFERENCES {table} (id)"),
        _ => String::new(),
    };
    let empty = column.empty.map(|empty| format!(" DEFAULT '{empty}'")).unwrap_or_default();
    format!("{} {}{refers}{empty}", column.name, column.made)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stored::shapes;
    use crate::stored::table::column;

    #[test]
    fn a_column_that_is_added_to_a_list_is_added_to_the_database() {
        let mut shapes = shapes();
        let lap = shapes.iter_mut().find(|shape| shape.name == "lap").unwrap();
        let late = column("lane", "TEXT NOT NULL", Role::Sealed).empty("{}");
        lap.columns.push(Column { since: FIRST + 1, ..late });
        let db = rusqlite::Connection::open_in_memory().unwrap();
        db.execute_batch(&schema(&shapes)).unwrap();
        let lanes = |db: &rusqlite::Connection| -> u32 {
            let query = "SELECT count(*) FROM pragma_table_info('lap') WHERE name = 'lane'";
            db.query_row(query, [], |row| row.get(0)).unwrap()
        };
        assert_eq!(lanes(&db), 0);
        db.execute_batch(&additions(&shapes, FIRST + 1)).unwrap();
        assert_eq!(lanes(&db), 1);
    }
}
