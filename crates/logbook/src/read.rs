//! Reading back what was written. A logbook may come from anyone: it is data, and checked as such.

use crate::error::LogbookError;
use crate::json::json;
use crate::names::Names;
use crate::open::Logbook;
use crate::stored::{
    DETAIL, DetailRow, LAP, OUTPUT, Output, RawLap, Read, SESSION, StoredSession, StoredVariant,
    TASK, Table, TaskRow, Unread, VARIANT,
};
use honest_lap_core::endurance::Endured;
use honest_lap_core::record::{
    Captured, Digest, LapBody, LapHead, LapName, LapPage, Outcome, Reading, SessionName,
    SessionPage, SessionRecord, Settings, Subject, Task, TaskForm,
};
use rusqlite::types::ValueRef;
use rusqlite::{OptionalExtension, Row, params};
use serde::de::DeserializeOwned;
use std::collections::{BTreeMap, HashMap};
use std::hash::Hash;

pub(crate) type Sql<T> = rusqlite::Result<T>;

impl Logbook {
    /// Returns the heads of all laps, in the order written.
    pub fn laps(&self) -> Result<Vec<LapHead>, LogbookError> {
        let _moment = self.moment()?;
        self.laps_where(("", &[]), &self.names()?, None)
    }

    /// Returns the heads of the laps of `session`, in the order run.
    pub fn laps_of(&self, session: &SessionName) -> Result<Vec<LapHead>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let Some(id) = names.id(session) else { return Ok(Vec::new()) };
        self.laps_where(("WHERE session = ?1 ORDER BY number", &[&id]), &names, None)
    }

    fn laps_where(
        &self,
        (condition, values): (&str, &[&dyn rusqlite::ToSql]),
        names: &Names,
        about: Option<&Subject>,
    ) -> Result<Vec<LapHead>, LogbookError> {
        let mut readings = self.readings(condition, values)?;
        let digests = self.digests(names, (condition, values))?;
        let endured = self.endured(condition, values)?;
        let mut with_readings = |(id, mut head): (i64, LapHead)| {
            head.readings = readings.remove(&id).unwrap_or_default();
            let (frames, endured) = (digests.get(&head.name), endured.get(&id));
            head.readings.extend(derived(frames, endured));
            head
        };
        let heads = self.lap_heads((condition, values), names, about)?.into_iter();
        Ok(heads.map(&mut with_readings).collect())
    }

    /// Returns the heads of laps, without what was read from them, each with its number here.
    pub(crate) fn lap_heads(
        &self,
        (condition, values): (&str, &[&dyn rusqlite::ToSql]),
        names: &Names,
        about: Option<&Subject>,
    ) -> Result<Vec<(i64, LapHead)>, LogbookError> {
        // Names are few and laps many: they are joined here, once each.
        let mut set_aside = self.set_aside(names, about)?;
        let tasks: HashMap<u32, String> = self
            .rows("SELECT id, workload FROM task", &[], |row| Ok((row.get(0)?, row.get(1)?)))?
            .into_iter()
            .collect();
        let variants = self.variants()?;
        let query = LAP.query(condition);
        let mut statement =
            self.db.prepare(&query).map_err(|source| self.failed("read", source))?;
        let mut rows = statement.query(values).map_err(|source| self.failed("read", source))?;
        let mut laps = Vec::new();
        while let Some(row) = rows.next().map_err(|source| self.failed("read", source))? {
            let raw: RawLap = self.told(LAP.read(row))?;
            let names = (names.of(raw.session), tasks.get(&raw.task), variants.get(&raw.variant));
            let (Some(session), Some(workload), Some(settings)) = names else {
                return Err(self.damaged(format!("a lap of session {}", raw.session)));
            };
            let name = LapName { session: session.clone(), number: raw.number };
            let Some(outcome) = raw.outcome else {
                return Err(self.damaged(format!("the outcome of lap {name}")));
            };
            let head = LapHead {
                set_aside: taken(&mut set_aside, &name),
                readings: Vec::new(),
                parts: raw.parts,
                step: raw.step,
                name,
                workload: workload.clone(),
                settings: settings.clone(),
                task: raw.task,
                round: raw.round,
                warm_up: raw.warm_up,
                outcome,
                wall: raw.wall,
            };
            laps.push((raw.id, head));
        }
        Ok(laps)
    }

    /// Returns the lap called `name` in full, if it is there.
    pub fn lap(&self, name: &LapName) -> Result<Option<LapPage>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let Some(session) = names.id(&name.session) else { return Ok(None) };
        let condition = "WHERE session = ?1 AND number = ?2";
        let values: [&dyn rusqlite::ToSql; 2] = [&session, &name.number];
        let about = Subject::Lap(name.clone());
        let Some(head) = self.laps_where((condition, &values), &names, Some(&about))?.pop() else {
            return Ok(None);
        };
        let id: i64 = self
            .one(&format!("SELECT id FROM lap {condition}"), &values, |row| row.get(0))?
            .ok_or_else(|| self.damaged(format!("lap {name}")))?;
        let body = self.body(id)?.ok_or_else(|| self.damaged(format!("lap {name}")))?;
        let form: Option<String> =
            self.one("SELECT form FROM task WHERE id = ?1", &[&head.task], |row| row.get(0))?;
        let task = self.parsed(&form.unwrap_or_default(), "the task of a lap")?;
        Ok(Some(LapPage { head, body, task }))
    }

    pub(crate) fn body(&self, id: i64) -> Result<Option<LapBody>, LogbookError> {
        let found: Option<DetailRow<LapBody>> =
            self.all(&DETAIL, ("WHERE lap = ?1", &[&id]))?.pop();
        let Some(DetailRow { mut body, traces, .. }) = found else { return Ok(None) };
        body.traces = self.traces(id, &traces)?;
        body.repeats = self.repeats(id)?;
        let outputs: Vec<Output<Captured>> = self.all(&OUTPUT, ("WHERE lap = ?1", &[&id]))?;
        for Output { stream, captured, .. } in outputs {
            match stream.as_str() {
                "stdout" => body.stdout = captured,
                _ => body.stderr = captured,
            }
        }
        Ok(Some(body))
    }

    /// Reads the rows that `which` says of a table, one after the other.
    pub(crate) fn each<W, R, T: Default>(
        &self,
        table: &Table<W, R>,
        (which, values): (&str, &[&dyn rusqlite::ToSql]),
        mut with: impl FnMut(T) -> Result<(), LogbookError>,
    ) -> Result<(), LogbookError>
    where
        R: Fn(&mut T, ValueRef<'_>) -> Read,
    {
        let failed = |source| self.failed("read", source);
        let mut statement = self.db.prepare_cached(&table.query(which)).map_err(failed)?;
        let mut rows = statement.query(values).map_err(failed)?;
        while let Some(row) = rows.next().map_err(failed)? {
            with(self.told(table.read(row))?)?;
        }
        Ok(())
    }

    /// Returns the rows that `which` says of a table.
    fn all<W, R, T: Default>(
        &self,
        table: &Table<W, R>,
        which: (&str, &[&dyn rusqlite::ToSql]),
    ) -> Result<Vec<T>, LogbookError>
    where
        R: Fn(&mut T, ValueRef<'_>) -> Read,
    {
        let mut all = Vec::new();
        self.each(table, which, |row| {
            all.push(row);
            Ok(())
        })?;
        Ok(all)
    }

    fn told<T>(&self, read: Sql<Result<T, Unread>>) -> Result<T, LogbookError> {
        match read {
            Ok(Ok(row)) => Ok(row),
            Ok(Err(Unread::Meaning(what))) => Err(self.damaged(what)),
            // Types are told as the database tells them.
            Ok(Err(Unread::Type(err))) => Err(self.damaged(err.to_string())),
            Err(source) => Err(self.failed("read", source)),
        }
    }

    /// Returns what was written down when each session began, in the order written.
    pub fn records(&self) -> Result<Vec<SessionRecord>, LogbookError> {
        Ok(self.numbered_records()?.into_iter().map(|(_, record)| record).collect())
    }

    fn numbered_records(&self) -> Result<Vec<(i64, SessionRecord)>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let mut all = Vec::new();
        let stored: Vec<StoredSession> = self.all(&SESSION, ("ORDER BY id", &[]))?;
        for StoredSession { id, started, seed, tool, found, versions, about, .. } in stored {
            let name = names.of(id).cloned().ok_or_else(|| self.damaged("a session's name"))?;
            let seed = seed.cast_unsigned();
            all.push((id, SessionRecord { name, started, seed, tool, found, versions, about }));
        }
        Ok(all)
    }

    /// Returns every session, in the order written.
    pub fn sessions(&self) -> Result<Vec<SessionPage>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let mut pages: BTreeMap<i64, SessionPage> = BTreeMap::new();
        for (id, record) in self.numbered_records()? {
            let (not_done, workloads) = Default::default();
            let page =
                SessionPage { record, counted: 0, warm_up: 0, set_aside: 0, not_done, workloads };
            pages.insert(id, page);
        }
        let query = "SELECT session, outcome, warm_up, task, count(*) FROM lap
                     GROUP BY session, outcome, warm_up, task";
        let counts = self.rows(query, &[], |row| {
            let outcome: String = row.get(1)?;
            let count: u32 = row.get(4)?;
            let key: (i64, bool, u32, usize) =
                (row.get(0)?, row.get(2)?, row.get(3)?, count as usize);
            Ok((outcome, key))
        })?;
        let workloads = self.task_workloads()?;
        for (outcome, (session, warm_up, task, count)) in counts {
            let page = pages.get_mut(&session).ok_or_else(|| self.damaged("a lap's session"))?;
            let outcome = Outcome::from_word(&outcome).ok_or_else(|| {
                self.damaged(format!("an outcome in session {}", page.record.name))
            })?;
            match outcome {
                Outcome::Done if warm_up => page.warm_up += count,
                Outcome::Done => page.counted += count,
                other => *page.not_done.entry(other).or_default() += count,
            }
            page.workloads.extend(workloads.get(&task).cloned());
        }
        for lap in self.set_aside(&names, None)?.into_keys() {
            let counts = self.lap_counts(&names, &lap)?;
            let page = names.id(&lap.session).filter(|_| counts).and_then(|id| pages.get_mut(&id));
            if let Some(page) = page {
                page.counted -= 1;
                page.set_aside += 1;
            }
        }
        let mut pages: Vec<SessionPage> = pages.into_values().collect();
        for page in &mut pages {
            page.workloads.sort();
            page.workloads.dedup();
        }
        Ok(pages)
    }

    /// Returns every form of every workload's task, in the order first run.
    pub fn tasks(&self) -> Result<Vec<TaskForm>, LogbookError> {
        let _moment = self.moment()?;
        // One pass over the laps, whatever the number of tasks.
        let query = "SELECT p.task, max(s.started)
                     FROM (SELECT DISTINCT task, session FROM lap) p
                     JOIN session s ON s.id = p.session
                     GROUP BY p.task";
        let last = self.rows(query, &[], |row| Ok((row.get(0)?, row.get(1)?)))?;
        self.tasks_driven(last.into_iter().collect())
    }

    /// Returns every form of every workload's task, of which is known when each was last run.
    pub(crate) fn tasks_driven(
        &self,
        mut last: HashMap<u32, String>,
    ) -> Result<Vec<TaskForm>, LogbookError> {
        let all: Vec<TaskRow<String>> = self.all(&TASK, ("ORDER BY id", &[]))?;
        all.into_iter()
            .map(|TaskRow { id, workload, form }| {
                let task = self.parsed(&form, "a workload's task")?;
                Ok(TaskForm { id, workload, last_driven: last.remove(&id), task })
            })
            .collect()
    }

    /// Returns the number of the form `task` of `workload`, if a session has entered it.
    pub fn task_number(&self, workload: &str, task: &Task) -> Result<Option<u32>, LogbookError> {
        let form = json(task);
        self.one(
            "SELECT id FROM task WHERE workload = ?1 AND form = ?2",
            params![workload, form],
            |row| row.get(0),
        )
    }

    fn task_workloads(&self) -> Result<HashMap<u32, String>, LogbookError> {
        let rows =
            self.rows("SELECT id, workload FROM task", &[], |row| Ok((row.get(0)?, row.get(1)?)))?;
        Ok(rows.into_iter().collect())
    }

    fn variants(&self) -> Result<HashMap<i64, Settings>, LogbookError> {
        let all: Vec<StoredVariant> = self.all(&VARIANT, ("", &[]))?;
        Ok(all.into_iter().map(|variant| (variant.id, variant.settings)).collect())
    }

    pub(crate) fn rows<T>(
        &self,
        query: &str,
        values: &[&dyn rusqlite::ToSql],
        read: impl Fn(&Row<'_>) -> Sql<T>,
    ) -> Result<Vec<T>, LogbookError> {
        let run = || -> Sql<Vec<T>> {
            let mut statement = self.db.prepare_cached(query)?;
            let rows = statement.query_map(values, |row| read(row))?;
            rows.collect()
        };
        run().map_err(|source| self.failed("read", source))
    }

    pub(crate) fn one<T>(
        &self,
        query: &str,
        values: &[&dyn rusqlite::ToSql],
        read: impl Fn(&Row<'_>) -> Sql<T>,
    ) -> Result<Option<T>, LogbookError> {
        self.db
            .prepare_cached(query)
            .and_then(|mut statement| statement.query_row(values, |row| read(row)).optional())
            .map_err(|source| self.failed("read", source))
    }

    pub(crate) fn parsed<T: DeserializeOwned>(
        &self,
        text: &str,
        what: &str,
    ) -> Result<T, LogbookError> {
        serde_json::from_str(text).map_err(|_| self.damaged(what))
    }
}

/// Takes what `all` has of `key`: mostly there is nothing in it, and then nothing is hashed.
pub(crate) fn taken<K: Hash + Eq, V>(all: &mut HashMap<K, V>, key: &K) -> Option<V> {
    if all.is_empty() { None } else { all.remove(key) }
}

/// Returns what a lap yields by its frames and over time. What frames come to depends on what is cut, and follows from it.
pub(crate) fn derived(frames: Option<&Digest>, endured: Option<&Endured>) -> Vec<Reading> {
    let of_frames = frames.map(Digest::readings).unwrap_or_default();
    of_frames.into_iter().chain(endured.map(Endured::readings).unwrap_or_default()).collect()
}
