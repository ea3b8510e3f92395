//! What no seal accounts for: rows that belong to no sealed record.
//!
//! Seals are read from sessions to their laps to all that laps refer to. Whatever is in the file and not on that
//! way would be in a seal's shadow, so it is looked for by itself.

use crate::error::LogbookError;
use crate::open::Logbook;
use crate::stored::shapes;

/// Besides rows that belong to one that is not here: what a row is, and a query for such rows, a key in words.
const OTHERS: [(&str, &str); 3] = [
    (
        "a lap without its detail",
        "SELECT 'lap ' || id FROM lap WHERE id NOT IN (SELECT lap FROM lap_detail)",
    ),
    ("a task of no lap", "SELECT 'task ' || id FROM task WHERE id NOT IN (SELECT task FROM lap)"),
    (
        "a variant of no lap",
        "SELECT 'variant ' || id FROM variant WHERE id NOT IN (SELECT variant FROM lap)",
    ),
];

/// Returns what a row is that belongs to nothing, and a query for such rows, for each reference of every table.
fn lost() -> Vec<(String, String)> {
    let mut all = Vec::new();
    for shape in shapes() {
        let table = shape.name;
        let key =
            if shape.has_own() { "id".to_owned() } else { shape.identity.join(" || ' ' || ") };
        for (column, of) in shape.refers() {
            let what = format!("a row of {table} without its {of}");
            let query = format!(
                "SELECT '{table} ' || {key} FROM {table} WHERE {column} NOT IN (SELECT id FROM {of})"
            );
            all.push((what, query));
        }
    }
    all
}

impl Logbook {
    /// Returns every row that no sealed record accounts for, in words: the first of each kind and how many there are.
    pub fn strays(&self) -> Result<Vec<String>, LogbookError> {
        let _moment = self.moment()?;
        let mut found = Vec::new();
        let others = OTHERS.map(|(what, query)| (what.to_owned(), query.to_owned()));
        for (what, query) in lost().into_iter().chain(others) {
            let rows: Vec<String> = self.rows(&query, &[], |row| row.get(0))?;
            let more = match rows.len() {
                0 => continue,
                1 => String::new(),
                several => format!(", and {} more", several - 1),
            };
            found.push(format!("{what} ({}{more})", rows[0]));
        }
        Ok(found)
    }
}
