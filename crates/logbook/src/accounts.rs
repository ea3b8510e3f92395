//! What no seal accounts for: rows that belong to no sealed record.
//!
//! Seals are read from sessions to their laps to all that laps refer to. Whatever is in the file and not on that
//! way would be in a seal's shadow, so it is looked for by itself.

use crate::error::LogbookError;
use crate::open::Logbook;

/// For each table what a row of it is, and a query for the rows that no sealed record has: a key in words.
const STRAYS: [(&str, &str); 9] = [
    (
        "a lap without its session, task, variant or detail",
        "SELECT 'lap ' || l.id FROM lap l
             LEFT JOIN session s ON s.id = l.session
             LEFT JOIN task t ON t.id = l.task
             LEFT JOIN variant v ON v.id = l.variant
             LEFT JOIN lap_detail d ON d.lap = l.id
         WHERE s.id IS NULL OR t.id IS NULL OR v.id IS NULL OR d.lap IS NULL",
    ),
    (
        "the detail of no lap",
        "SELECT 'lap_detail ' || lap FROM lap_detail WHERE lap NOT IN (SELECT id FROM lap)",
    ),
    (
        "output of no lap",
        "SELECT 'output ' || lap || ' ' || stream FROM output
         WHERE lap NOT IN (SELECT id FROM lap) OR stream NOT IN ('stdout', 'stderr')",
    ),
    ("the pass of no lap", "SELECT 'pass ' || lap FROM pass WHERE lap NOT IN (SELECT id FROM lap)"),
    (
        "frames of no pass",
        "SELECT 'frames ' || id FROM frames WHERE lap NOT IN (SELECT lap FROM pass)",
    ),
    (
        "a series of no lap",
        "SELECT 'series ' || id FROM series WHERE lap NOT IN (SELECT id FROM lap)",
    ),
    (
        "a seal of no session",
        "SELECT 'seal ' || session || '.' || number FROM seal
         WHERE session NOT IN (SELECT id FROM session)",
    ),
    ("a task of no lap", "SELECT 'task ' || id FROM task WHERE id NOT IN (SELECT task FROM lap)"),
    (
        "a variant of no lap",
        "SELECT 'variant ' || id FROM variant WHERE id NOT IN (SELECT variant FROM lap)",
    ),
];

impl Logbook {
    /// Returns every row that no sealed record accounts for, in words: the first of each kind and how many there are.
    pub fn strays(&self) -> Result<Vec<String>, LogbookError> {
        let mut found = Vec::new();
        for (what, query) in STRAYS {
            let rows: Vec<String> = self.rows(query, &[], |row| row.get(0))?;
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
