//! Reading back what was written. A logbook may come from anyone: it is data, and checked as such.

use crate::error::LogbookError;
use crate::json::json;
use crate::names::Names;
use crate::open::Logbook;
use honest_lap_core::endurance::Endured;
use honest_lap_core::record::{
    Captured, Digest, LapBody, LapHead, LapName, LapPage, Outcome, SessionName, SessionPage,
    SessionRecord, Settings, Task, TaskForm, Usage,
};
use honest_lap_core::unit::Nanos;
use rusqlite::{OptionalExtension, Row, params};
use serde::de::DeserializeOwned;
use std::collections::{BTreeMap, HashMap};

pub(crate) type Sql<T> = rusqlite::Result<T>;

impl Logbook {
    /// Returns the heads of all laps, in the order written.
    pub fn laps(&self) -> Result<Vec<LapHead>, LogbookError> {
        self.laps_where("", &[], &self.names()?)
    }

    /// Returns the heads of the laps of `session`, in the order driven.
    pub fn laps_of(&self, session: &SessionName) -> Result<Vec<LapHead>, LogbookError> {
        let names = self.names()?;
        let Some(id) = names.id(session) else { return Ok(Vec::new()) };
        self.laps_where("WHERE session = ?1 ORDER BY number", &[&id], &names)
    }

    fn laps_where(
        &self,
        condition: &str,
        values: &[&dyn rusqlite::ToSql],
        names: &Names,
    ) -> Result<Vec<LapHead>, LogbookError> {
        // Names are few and laps many: they are joined here, once each.
        let mut readings = self.readings(condition, values)?;
        let mut set_aside = self.set_aside(names)?;
        let digests = self.digests(names)?;
        let endured = self.endured(condition, values)?;
        let tasks: HashMap<u32, String> = self
            .rows("SELECT id, workload FROM task", &[], |row| Ok((row.get(0)?, row.get(1)?)))?
            .into_iter()
            .collect();
        let variants = self.variants()?;
        let query = format!(
            "SELECT session, number, task, variant, round, warm_up, outcome, wall_ns, parts_ns,
                 step_ns, id
             FROM lap {condition}"
        );
        let mut statement =
            self.db.prepare(&query).map_err(|source| self.failed("read", source))?;
        let mut rows = statement.query(values).map_err(|source| self.failed("read", source))?;
        let mut laps = Vec::new();
        while let Some(row) = rows.next().map_err(|source| self.failed("read", source))? {
            let raw = raw_lap(row).map_err(|source| self.failed("read", source))?;
            let names = (names.of(raw.session), tasks.get(&raw.task), variants.get(&raw.variant));
            let (Some(session), Some(workload), Some(settings)) = names else {
                return Err(self.damaged(format!("a lap of session {}", raw.session)));
            };
            let name = LapName { session: session.clone(), number: raw.number };
            let Some(outcome) = raw.outcome else {
                return Err(self.damaged(format!("the outcome of lap {name}")));
            };
            let mut read = readings.remove(&raw.id).unwrap_or_default();
            // What frames come to depends on what is cut, and follows from it.
            read.extend(digests.get(&name).map(Digest::readings).unwrap_or_default());
            read.extend(endured.get(&raw.id).map(Endured::readings).unwrap_or_default());
            laps.push(LapHead {
                set_aside: set_aside.remove(&name),
                readings: read,
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
            });
        }
        Ok(laps)
    }

    /// Returns the lap called `name` in full, if it is there.
    pub fn lap(&self, name: &LapName) -> Result<Option<LapPage>, LogbookError> {
        let names = self.names()?;
        let Some(session) = names.id(&name.session) else { return Ok(None) };
        let condition = "WHERE session = ?1 AND number = ?2";
        let values: [&dyn rusqlite::ToSql; 2] = [&session, &name.number];
        let Some(head) = self.laps_where(condition, &values, &names)?.pop() else {
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
        let query = format!("{DETAIL} WHERE lap = ?1");
        let Some((body, texts)) = self.one(&query, &[&id], detail)? else { return Ok(None) };
        let mut body = self.read_detail(body, &texts)?;
        body.traces = self.traces(id, &texts[5])?;
        body.repeats = self.repeats(id)?;
        body.stdout = self.output(id, "stdout")?;
        body.stderr = self.output(id, "stderr")?;
        Ok(Some(body))
    }

    /// Returns `body` with what `texts` of its detail say: all of a lap that stands in its own row.
    pub(crate) fn read_detail(
        &self,
        body: LapBody,
        texts: &[String],
    ) -> Result<LapBody, LogbookError> {
        Ok(LapBody {
            command: self.parsed(&texts[0], "the command of a lap")?,
            conditions: self.parsed(&texts[1], "the conditions of a lap")?,
            produced: self.parsed(&texts[2], "the products of a lap")?,
            left_behind: self.parsed(&texts[3], "what a lap left behind")?,
            readings: self.parsed(&texts[4], "the readings of a lap")?,
            ..body
        })
    }

    fn output(&self, lap: i64, stream: &str) -> Result<Captured, LogbookError> {
        let query = "SELECT head, tail, total FROM output WHERE lap = ?1 AND stream = ?2";
        let found = self.one(query, &[&lap, &stream], |row| {
            let total: i64 = row.get(2)?;
            Ok(Captured { head: row.get(0)?, tail: row.get(1)?, total: total.cast_unsigned() })
        })?;
        Ok(found.unwrap_or_default())
    }

    /// Returns what was written down when each session began, in the order written.
    pub fn records(&self) -> Result<Vec<SessionRecord>, LogbookError> {
        Ok(self.numbered_records()?.into_iter().map(|(_, record)| record).collect())
    }

    fn numbered_records(&self) -> Result<Vec<(i64, SessionRecord)>, LogbookError> {
        let names = self.names()?;
        let query =
            "SELECT id, seed, started, tool, found, versions, about FROM session ORDER BY id";
        let raw = self.rows(query, &[], |row| {
            let texts: [String; 5] =
                [row.get(2)?, row.get(3)?, row.get(4)?, row.get(5)?, row.get(6)?];
            Ok((row.get::<_, i64>(0)?, row.get::<_, i64>(1)?, texts))
        })?;
        let mut all = Vec::new();
        for (id, seed, [started, tool, found, versions, about]) in raw {
            let name = names.of(id).cloned().ok_or_else(|| self.damaged("a session's name"))?;
            let record = SessionRecord {
                name,
                started,
                seed: seed.cast_unsigned(),
                tool,
                found: self.parsed(&found, "a session's machine")?,
                versions: self.parsed(&versions, "a session's versions")?,
                about: self.parsed(&about, "what is known of a session")?,
            };
            all.push((id, record));
        }
        Ok(all)
    }

    /// Returns every session, in the order written.
    pub fn sessions(&self) -> Result<Vec<SessionPage>, LogbookError> {
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
        for lap in self.set_aside(&names)?.into_keys() {
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

    /// Returns every form of every workload's task, in the order first driven.
    pub fn tasks(&self) -> Result<Vec<TaskForm>, LogbookError> {
        // One pass over the laps, whatever the number of tasks.
        let query = "SELECT t.id, t.workload, t.form, d.last
                     FROM task t LEFT JOIN (
                         SELECT p.task, max(s.started) AS last
                         FROM (SELECT DISTINCT task, session FROM lap) p
                         JOIN session s ON s.id = p.session
                         GROUP BY p.task
                     ) d ON d.task = t.id
                     ORDER BY t.id";
        let raw = self.rows(query, &[], |row| {
            let form: String = row.get(2)?;
            Ok((row.get(0)?, row.get(1)?, form, row.get(3)?))
        })?;
        raw.into_iter()
            .map(|(id, workload, form, last_driven)| {
                let task = self.parsed(&form, "a workload's task")?;
                Ok(TaskForm { id, workload, last_driven, task })
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
        let rows = self.rows("SELECT id, settings FROM variant", &[], |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?))
        })?;
        rows.into_iter().map(|(id, text)| Ok((id, self.parsed(&text, "a variant")?))).collect()
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

/// The detail of laps, as [`detail`] reads it.
pub(crate) const DETAIL: &str =
    "SELECT started, reason, command, folder, exit_code, signal, user_ns, system_ns, peak_bytes,
         peak_floor_bytes, conditions, produced, left_behind, readings, traces
     FROM lap_detail";

/// Reads a row of [`DETAIL`]: what is plain, and the texts that are still to be parsed, those of traces last.
pub(crate) fn detail(row: &Row<'_>) -> Sql<(LapBody, Vec<String>)> {
    let [user, system, peak, floor] = [6, 7, 8, 9].map(|at| row.get::<_, Option<i64>>(at));
    let number = |value: Option<i64>| value.map_or(0, i64::cast_unsigned);
    let user = user?;
    let usage = Usage {
        user: Nanos(number(user)),
        system: Nanos(number(system?)),
        peak_bytes: number(peak?),
        peak_floor_bytes: number(floor?),
    };
    let body = LapBody {
        started: row.get(0)?,
        reason: row.get(1)?,
        folder: row.get(3)?,
        exit_code: row.get(4)?,
        signal: row.get(5)?,
        usage: user.map(|_| usage),
        ..LapBody::default()
    };
    let texts = [2, 10, 11, 12, 13, 14].map(|at| row.get::<_, String>(at));
    Ok((body, texts.into_iter().collect::<Sql<Vec<String>>>()?))
}

/// A lap's row, before its names are looked up.
struct RawLap {
    session: i64,
    number: u32,
    task: u32,
    variant: i64,
    round: u32,
    warm_up: bool,
    outcome: Option<Outcome>,
    wall: Option<Nanos>,
    parts: Option<Nanos>,
    step: Option<Nanos>,
    id: i64,
}

fn raw_lap(row: &Row<'_>) -> Sql<RawLap> {
    let span = |at| -> Sql<Option<Nanos>> {
        let ns: Option<i64> = row.get(at)?;
        Ok(ns.map(|ns| Nanos(ns.cast_unsigned())))
    };
    Ok(RawLap {
        session: row.get(0)?,
        number: row.get(1)?,
        task: row.get(2)?,
        variant: row.get(3)?,
        round: row.get(4)?,
        warm_up: row.get(5)?,
        outcome: Outcome::from_word(row.get_ref(6)?.as_str()?),
        wall: span(7)?,
        parts: span(8)?,
        step: span(9)?,
        id: row.get(10)?,
    })
}
