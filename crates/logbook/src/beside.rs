//! What stands beside the laps: their readings, the facts that doubts are found in, set-asides.

use crate::error::LogbookError;
use crate::names::Names;
use crate::open::Logbook;
use crate::read::Sql;
use honest_lap_core::both;
use honest_lap_core::lab::{AllFacts, LapFacts};
use honest_lap_core::record::{
    LapHead, LapName, Reading, RemarkKind, SessionRecord, Subject, TaskForm,
};
use honest_lap_core::unit::Nanos;

use std::collections::HashMap;
use std::sync::Arc;

/// What comparisons are made of.
#[derive(Debug)]
pub struct Everything {
    /// What was written down when each session began, in the order written.
    pub sessions: Vec<SessionRecord>,
    /// Every form of every workload's task.
    pub tasks: Vec<TaskForm>,
    /// Every lap.
    pub laps: Vec<LapHead>,
    /// What else is known of each.
    pub facts: AllFacts,
}

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

    /// Returns why laps are set aside, by name: the last word on each counts. Where `about` says which, only that one is
    /// looked at.
    pub(crate) fn set_aside(
        &self,
        names: &Names,
        about: Option<&Subject>,
    ) -> Result<HashMap<LapName, String>, LogbookError> {
        let mut all = HashMap::new();
        for remark in self.remarks_with(names, about)? {
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

    /// Returns everything that comparisons are made of, as it is at one moment.
    pub fn everything(&self) -> Result<Everything, LogbookError> {
        // Facts on a connection of its own: SQLite's is of one thread.
        let mut other = Self::open(&self.path)?;
        let _moment = self.moment_with(&mut other)?;
        let rest =
            || -> Result<_, LogbookError> { Ok((self.records()?, self.tasks()?, self.laps()?)) };
        let (rest, facts) = both(rest, move || other.facts());
        let ((sessions, tasks, laps), facts) = (rest?, facts?);
        Ok(Everything { sessions, tasks, laps, facts })
    }

    /// Returns what doubts are found in, of every lap that was started.
    pub fn facts(&self) -> Result<AllFacts, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let query =
            "SELECT l.session, l.number, d.conditions, d.produced, d.left_behind, l.id, d.reason, d.user_ns, d.system_ns
                     FROM lap l JOIN lap_detail d ON d.lap = l.id";
        let mut statement = self.db.prepare(query).map_err(|source| self.failed("read", source))?;
        let mut rows = statement.query([]).map_err(|source| self.failed("read", source))?;
        let mut digests = self.digests(&names, ("", &[]))?;
        let mut endured = self.endured("", &[])?;
        let mut all = AllFacts::new();
        // What is known of the last lap, as it is written: the next often knows the same.
        let mut last: Option<([String; 3], Arc<LapFacts>)> = None;
        while let Some(row) = rows.next().map_err(|source| self.failed("read", source))? {
            let failed = |source| self.failed("read", source);
            let text = |at| -> Sql<&str> { Ok(row.get_ref(at)?.as_str()?) };
            let session: i64 = row.get(0).map_err(failed)?;
            let number: u32 = row.get(1).map_err(failed)?;
            let session = names.of(session).ok_or_else(|| self.damaged("a lap's session"))?;
            let name = LapName { session: session.clone(), number };
            let id: i64 = row.get(5).map_err(failed)?;
            let [conditions, produced, left_behind] = [text(2), text(3), text(4)];
            let texts = [
                conditions.map_err(failed)?,
                produced.map_err(failed)?,
                left_behind.map_err(failed)?,
            ];
            let (frames, endured) = (digests.remove(&name), endured.remove(&id));
            let reason: Option<String> = row.get(6).map_err(failed)?;
            let time =
                |at| Ok(row.get::<_, Option<i64>>(at).map_err(failed)?.map(i64::unsigned_abs));
            let (user, system) = (time(7)?, time(8)?);
            let processor_time = user.zip(system).map(|(u, s)| Nanos(u.saturating_add(s)));
            let alone = frames.is_none() && endured.is_none() && reason.is_none();
            let same = |(known, facts): &&([String; 3], Arc<LapFacts>)| {
                alone && *known == texts && facts.processor_time == processor_time
            };
            if let Some((_, facts)) = last.as_ref().filter(same) {
                all.insert(name, Arc::clone(facts));
                continue;
            }
            let facts = Arc::new(LapFacts {
                frames: frames.map(Box::new),
                endured: endured.map(Box::new),
                reason,
                processor_time,
                conditions: self.parsed(texts[0], "the conditions of a lap")?,
                produced: self.parsed(texts[1], "the products of a lap")?,
                left_behind: self.parsed(texts[2], "what a lap left behind")?,
            });
            last = alone.then(|| (texts.map(str::to_owned), Arc::clone(&facts)));
            all.insert(name, facts);
        }
        Ok(all)
    }
}
