//! Every table and every column of a logbook, each told once.
//!
//! A column's line says how it is made, what it holds of a record, how it is read back, and how it is sealed. The
//! schema, what is inserted, what is read, what seals cover, what a merge takes over and what `lap verify` looks for
//! all follow from these lists.

mod chunk;
mod detail;
mod lap;
mod output;
mod pass;
mod remark;
mod seal;
mod sealed;
mod session;
mod sql;
mod table;
mod task;

pub(crate) use chunk::{CHUNK, Chunk};
pub(crate) use detail::{DETAIL, DetailRow};
pub(crate) use lap::{LAP, LapRow, RawLap};
pub(crate) use output::{OUTPUT, Output};
pub(crate) use pass::{PASS, PassRow};
pub(crate) use remark::{REMARK, RemarkRow};
pub(crate) use seal::{SEAL, SIGNATURE, SealRow, SignatureRow};
pub(crate) use session::{SESSION, SessionRow, StoredSession};
pub(crate) use sql::{additions, schema};
pub use table::{Column, Role, Shape};
pub(crate) use table::{FIRST, Read, Table, Unread};
pub(crate) use task::{StoredVariant, TASK, TaskRow, VARIANT};

/// Returns every table, those first that others refer to.
pub fn shapes() -> Vec<Shape> {
    vec![
        TASK.shape(),
        VARIANT.shape(),
        SESSION.shape(),
        LAP.shape(),
        DETAIL.shape(),
        OUTPUT.shape(),
        PASS.shape(),
        CHUNK.shape(),
        SEAL.shape(),
        REMARK.shape(),
        SIGNATURE.shape(),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tests::open;

    #[test]
    fn the_lists_are_what_the_database_has() {
        let (_dir, logbook) = open();
        let mut tables = logbook
            .db
            .prepare("SELECT name FROM sqlite_schema WHERE type = 'table' ORDER BY rowid")
            .unwrap();
        let tables: Vec<String> =
            tables.query_map([], |row| row.get(0)).unwrap().collect::<Result<_, _>>().unwrap();
        let listed: Vec<&str> = shapes().iter().map(|shape| shape.name).collect();
        assert_eq!(tables, listed);
        for shape in shapes() {
            let query = format!("SELECT name, type FROM pragma_table_info('{}')", shape.name);
            let mut there = logbook.db.prepare(&query).unwrap();
            let there: Vec<(String, String)> = there
                .query_map([], |row| Ok((row.get(0)?, row.get(1)?)))
                .unwrap()
                .collect::<Result<_, _>>()
                .unwrap();
            let listed: Vec<(String, String)> = shape
                .columns
                .iter()
                .map(|column| {
                    let kind = column.made.split(' ').next().unwrap_or_default();
                    (column.name.to_owned(), kind.to_owned())
                })
                .collect();
            assert_eq!(there, listed, "{}", shape.name);
            for name in shape.identity {
                assert!(shape.columns.iter().any(|column| column.name == *name), "{name}");
            }
        }
    }

    #[test]
    fn no_two_fields_of_a_lap_have_one_name() {
        let of_laps = ["lap", "task", "variant", "lap_detail", "output", "pass", "chunk"];
        let shapes = shapes();
        let of_laps = shapes.iter().filter(|shape| of_laps.contains(&shape.name));
        let columns = of_laps.flat_map(|shape| &shape.columns);
        let mut names: Vec<&str> =
            columns.filter(|column| column.is_sealed()).map(|column| column.name).collect();
        names.extend(["before", "session"]);
        let all = names.len();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), all, "a seal could not tell them apart: {names:?}");
    }
}
