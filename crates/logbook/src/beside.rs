//! What stands beside the laps: their readings, the facts that doubts are found in, set-asides.

use crate::error::LogbookError;
use crate::names::Names;
use crate::open::Logbook;
use crate::read::Sql;
use honest_lap_core::lab::LapFacts;
use honest_lap_core::record::{LapName, Reading, RemarkKind, Subject};

use std::collections::HashMap;

impl Logbook {
    /// Returns what was read from the laps that `condition` selects, by their number here.
    pub(crate) fn readings(
        &self,
        condition: &str,
        values: &[&dyn rusqlite::ToSql],
    ) -> Result<HashMap<i64, Vec<Reading>>, LogbookError> {
        let which = match condition {
            "" => String::new(),
            some => format!("AND lap IN (SELECT id FROM lap {some})"),
        };
        let query = format!("SELECT lap, readings FROM lap_detail WHERE readings <> '[]' {which}");
        let rows = self.rows(&query, values, |row| Ok((row.get(0)?, row.get::<_, String>(1)?)))?;
        let read = rows
            .into_iter()
            .map(|(lap, text)| Ok((lap, self.parsed(&text, "the readings of a lap")?)));
        read.collect()
    }

    /// Returns why laps are set aside, by name: the last word on each counts.
    pub(crate) fn set_aside(
        &self,
        names: &Names,
    ) -> Result<HashMap<LapName, String>, LogbookError> {
        let mut all = HashMap::new();
        for remark in self.remarks_with(names)? {
            match (remark.kind, remark.subject) {
                (RemarkKind::SetAside, Subject::Lap(lap)) => {
                    all.insert(lap, remark.text);
                }
                (RemarkKind::TakenBack, Subject::Lap(lap)) => {
                    all.remove(&lap);
                }
                _ => {}
            }
        }
        Ok(all)
    }

    /// Returns whether a lap would count if nobody had set it aside.
    pub(crate) fn lap_counts(&self, names: &Names, lap: &LapName) -> Result<bool, LogbookError> {
        let query = "SELECT 1 FROM lap
                     WHERE session = ?1 AND number = ?2 AND warm_up = 0 AND outcome = 'done'";
        let id = names.id(&lap.session);
        Ok(self.one(query, &[&id, &lap.number], |row| row.get::<_, u32>(0))?.is_some())
    }

    /// Returns what doubts are found in, of every lap that was started.
    pub fn facts(&self) -> Result<HashMap<LapName, Box<LapFacts>>, LogbookError> {
        let names = self.names()?;
        let query = "SELECT l.session, l.number, d.conditions, d.produced, d.left_behind, l.id
                     FROM lap l JOIN lap_detail d ON d.lap = l.id";
        let mut statement = self.db.prepare(query).map_err(|source| self.failed("read", source))?;
        let mut rows = statement.query([]).map_err(|source| self.failed("read", source))?;
        let mut digests = self.digests(&names)?;
        let mut endured = self.endured("", &[])?;
        let mut all = HashMap::new();
        while let Some(row) = rows.next().map_err(|source| self.failed("read", source))? {
            let failed = |source| self.failed("read", source);
            let text = |at| -> Sql<&str> { Ok(row.get_ref(at)?.as_str()?) };
            let session: i64 = row.get(0).map_err(failed)?;
            let number: u32 = row.get(1).map_err(failed)?;
            let session = names.of(session).ok_or_else(|| self.damaged("a lap's session"))?;
            let [conditions, produced, left_behind] = [text(2), text(3), text(4)];
            let name = LapName { session: session.clone(), number };
            let id: i64 = row.get(5).map_err(failed)?;
            let facts = LapFacts {
                frames: digests.remove(&name).map(Box::new),
                endured: endured.remove(&id).map(Box::new),
                conditions: self.parsed(conditions.map_err(failed)?, "the conditions of a lap")?,
                produced: self.parsed(produced.map_err(failed)?, "the products of a lap")?,
                left_behind: self.parsed(left_behind.map_err(failed)?, "what a lap left behind")?,
            };
            // Boxed: they are large, and a table that grows moves what it holds.
            all.insert(name, Box::new(facts));
        }
        Ok(all)
    }
}
