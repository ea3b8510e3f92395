//! Records as they stand, to be carried to a store of another kind and back: rows and values, whatever they mean.
//!
//! What comes back is put into a file of its own, of which nothing is believed before `Visitor::check` has gone through it.

pub use crate::stored::{Column, Role, Shape, shapes};
pub use rusqlite::types::Value;

use crate::error::LogbookError;
use crate::open::Logbook;
use crate::schema::newest;
use honest_lap_core::record::{CANONICAL, SessionName};
use rusqlite::{CachedStatement, ToSql, params_from_iter};
use std::collections::BTreeSet;
use std::path::Path;

/// How far a session goes here.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Head {
    /// What it is called here.
    pub session: SessionName,
    /// The rig as it was recorded.
    pub rig: String,
    /// What tells it from every session anywhere.
    pub mark: String,
    /// The number of its last record: 0 is the session's own.
    pub last: u32,
    /// The seal of that record.
    pub seal: String,
    /// Whether all of it is sealed over the present encoding.
    pub is_present: bool,
}

/// Records of a session: those numbered from `from` to `to`, both of them included; 0 is the session's own.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Part {
    /// The session's mark.
    pub mark: String,
    /// The first of them.
    pub from: u32,
    /// The last of them.
    pub to: u32,
}

/// Returns the format that this version writes: the lists of columns follow it.
pub fn format() -> u32 {
    newest()
}

impl Logbook {
    /// Returns how far every session goes, in the order written.
    pub fn heads(&self) -> Result<Vec<Head>, LogbookError> {
        let names = self.names()?;
        let query = "SELECT s.id, s.rig, s.mark, k.number, k.seal,
                         NOT EXISTS (SELECT 1 FROM seal o WHERE o.session = s.id AND o.form <> ?1)
                     FROM session s JOIN seal k ON k.session = s.id AND k.number =
                         (SELECT max(number) FROM seal WHERE session = s.id)
                     ORDER BY s.id";
        let rows = self.rows(query, &[&CANONICAL], |row| {
            let head = (row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?, row.get(5)?);
            Ok((row.get::<_, i64>(0)?, head))
        })?;
        let named = rows.into_iter().filter_map(|(id, (rig, mark, last, seal, is_present))| {
            Some(Head { session: names.of(id)?.clone(), rig, mark, last, seal, is_present })
        });
        Ok(named.collect())
    }

    /// Returns the seal of a session's record `number`, if it has that.
    pub fn seal_at(&self, mark: &str, number: u32) -> Result<Option<String>, LogbookError> {
        let query = "SELECT k.seal FROM seal k JOIN session s ON s.id = k.session
                     WHERE s.mark = ?1 AND k.number = ?2";
        self.one(query, &[&mark, &number], |row| row.get(0))
    }

    /// Returns every signature, by the session's mark, the number of the record that was signed, and the key.
    pub fn signature_marks(&self) -> Result<BTreeSet<(String, i64, String)>, LogbookError> {
        let query =
            "SELECT s.mark, g.number, g.key FROM signature g JOIN session s ON s.id = g.session";
        let rows = self.rows(query, &[], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))?;
        Ok(rows.into_iter().collect())
    }

    /// Returns the numbers of a session's laps above `above`, each with how many bytes are packed for it.
    pub fn laps_above(&self, mark: &str, above: u32) -> Result<Vec<(u32, u64)>, LogbookError> {
        let query =
            "SELECT l.number, (SELECT ifnull(sum(length(packed)), 0) FROM chunk WHERE lap = l.id)
                     FROM lap l JOIN session s ON s.id = l.session
                     WHERE s.mark = ?1 AND l.number > ?2 ORDER BY l.number";
        let bytes = |row: &rusqlite::Row<'_>| Ok((row.get(0)?, row.get::<_, i64>(1)?));
        let rows = self.rows(query, &[&mark, &above], bytes)?;
        Ok(rows.into_iter().map(|(number, bytes)| (number, bytes.unsigned_abs())).collect())
    }

    /// Returns the rows of a table that belong to `part`, each with its values of `columns`.
    ///
    /// * Shape: of tasks and variants those that its laps refer to; of signatures all up to its last record; of remarks all
    ///   there are, whatever the part.
    pub fn rows_of(
        &self,
        table: &Shape,
        columns: &[&str],
        part: &Part,
    ) -> Result<Vec<Vec<Value>>, LogbookError> {
        let laps = "SELECT l.id FROM lap l JOIN session s ON s.id = l.session
                    WHERE s.mark = ?1 AND l.number BETWEEN ?2 AND ?3";
        let refers = |to| table.refers().find(|(_, of)| *of == to).map(|(column, _)| column);
        let of_session = "(SELECT id FROM session WHERE mark = ?1)";
        let which = match (table.name, refers("lap"), refers("session")) {
            ("task" | "variant", ..) => {
                let name = table.name;
                format!("id IN (SELECT {name} FROM lap WHERE id IN ({laps}))")
            }
            ("session", ..) => "mark = ?1 AND ?2 = 0 AND ?3 >= 0".to_owned(),
            ("signature", ..) => {
                format!("session = {of_session} AND number <= ?3 AND ?2 >= 0")
            }
            (_, Some(column), _) => format!("{column} IN ({laps})"),
            (_, _, Some(column)) => {
                format!("{column} = {of_session} AND number BETWEEN ?2 AND ?3")
            }
            _ => "?1 = ?1 AND ?2 <= ?3".to_owned(),
        };
        // In the order in which they came: a record's place, or its number here.
        let order =
            table.columns.iter().find(|column| matches!(column.role, Role::Own | Role::Place));
        let order = order.map_or(table.identity[0], |column| column.name);
        let query = format!(
            "SELECT {} FROM {} WHERE {which} ORDER BY {order}",
            columns.join(", "),
            table.name
        );
        let values: [&dyn ToSql; 3] = [&part.mark, &part.from, &part.to];
        self.rows(&query, &values, |row| (0..columns.len()).map(|at| row.get(at)).collect())
    }
}

/// Rows of one table on their way into a new file.
pub struct Rows<'a> {
    insert: CachedStatement<'a>,
    logbook: &'a Logbook,
}

impl Rows<'_> {
    /// Puts down one.
    pub fn put(&mut self, row: Vec<Value>) -> Result<(), LogbookError> {
        let put = self.insert.execute(params_from_iter(row));
        put.map(|_| ()).map_err(|source| self.logbook.failed("write to", source))
    }
}

/// A new file of records that were kept elsewhere. Whoever reads it checks it first, as that of any stranger.
#[derive(Debug)]
pub struct Arrivals {
    logbook: Logbook,
}

impl Arrivals {
    /// Begins a file at `path`, a path of nobody else's.
    pub fn begin(path: &Path) -> Result<Self, LogbookError> {
        Self::begin_with(path, true)
    }

    /// Begins one of some records alone: what they refer to may be elsewhere.
    pub(crate) fn begin_some(path: &Path) -> Result<Self, LogbookError> {
        Self::begin_with(path, false)
    }

    fn begin_with(path: &Path, whole: bool) -> Result<Self, LogbookError> {
        let logbook = Logbook::create_or_open(path)?;
        let keys = if whole { "ON" } else { "OFF" };
        // What is lost with a power cut is fetched again.
        let quick =
            format!("PRAGMA synchronous = OFF; PRAGMA foreign_keys = {keys}; BEGIN IMMEDIATE;");
        let begun = logbook.db.execute_batch(&quick);
        begun.map_err(|source| logbook.failed("write to", source))?;
        Ok(Self { logbook })
    }

    /// Returns what puts down rows of `table`, whose columns are `columns`.
    pub fn rows(&mut self, table: &Shape, columns: &[&str]) -> Result<Rows<'_>, LogbookError> {
        let places: Vec<String> = (1..=columns.len()).map(|at| format!("?{at}")).collect();
        let (name, columns, places) = (table.name, columns.join(", "), places.join(", "));
        // What several laps refer to may come with each of them.
        let insert =
            format!("INSERT INTO {name} ({columns}) VALUES ({places}) ON CONFLICT DO NOTHING");
        let logbook = &self.logbook;
        let insert = logbook.db.prepare_cached(&insert);
        Ok(Rows { insert: insert.map_err(|source| logbook.failed("write to", source))?, logbook })
    }

    /// Ends the file; what is not ended is empty.
    pub fn end(self) -> Result<(), LogbookError> {
        let ended = self.logbook.db.execute_batch("COMMIT;");
        ended.map_err(|source| self.logbook.failed("write to", source))
    }
}
