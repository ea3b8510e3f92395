//! What stands beside the laps: their readings, the facts that doubts are found in, set-asides.

use crate::detail_texts::DetailTexts;
use crate::error::LogbookError;
use crate::names::Names;
use crate::open::Logbook;
use crate::read::{Sql, derived, taken};
use honest_lap_core::both;
use honest_lap_core::lab::{
    DetailsOfLap, Known, KnownLap, LapDetails, LapFacts, LapTimes, Laps, Packing,
};
use honest_lap_core::record::{
    LapHead, LapName, Reading, RemarkKind, SessionName, SessionRecord, Subject, TaskForm,
};
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
    pub laps: Laps,
}

/// Laps that are not in a logbook but for one of them, by the number of that one there.
pub type AlikeLaps = HashMap<i64, AlikeTo>;

/// Laps that are of one series and one outcome.
#[derive(Debug)]
pub struct AlikeTo {
    /// Their numbers, rounds and times.
    pub times: LapTimes,
    /// What is known of each besides, where that is not the same of all.
    pub details: Option<LapDetails>,
}

/// Which laps, as SQL says it behind the name of their table.
type Which<'a> = (&'a str, &'a [&'a dyn rusqlite::ToSql]);

const ALL: Which<'static> = ("ORDER BY id", &[]);

/// What stands beside the heads of laps.
#[derive(Default)]
struct Beside {
    /// Their numbers here, in order.
    laps: Vec<i64>,
    /// What is known of each.
    details: LapDetails,
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
        self.everything_with(AlikeLaps::new())
    }

    /// Returns the same of a logbook that does not have `alike` laps, with these.
    pub fn everything_with(&self, alike: AlikeLaps) -> Result<Everything, LogbookError> {
        // What stands beside the laps on a connection of its own: SQLite's is of one thread.
        let mut other = Self::open(&self.path)?;
        let _moment = self.moment_with(&mut other)?;
        let rest = || -> Result<_, LogbookError> {
            let heads = self.lap_heads(ALL, &self.names()?, None)?;
            let records = self.records()?;
            let tasks = self.tasks_driven(last_driven(&heads, &records))?;
            Ok((records, tasks, heads))
        };
        let (rest, details) = both(rest, move || other.details(ALL));
        let ((sessions, tasks, heads), details) = (rest?, details?);
        Ok(Everything { sessions, tasks, laps: self.joined(heads, details, alike)? })
    }

    /// Returns every lap with what else is known of it, in the order written.
    pub fn known_laps(&self) -> Result<Laps, LogbookError> {
        self.known_where(ALL)
    }

    /// Returns the laps of `session` with what else is known of them, in the order run.
    pub fn known_laps_of(&self, session: &SessionName) -> Result<Laps, LogbookError> {
        let _moment = self.moment()?;
        let Some(id) = self.names()?.id(session) else { return Ok(Laps::default()) };
        self.known_where(("WHERE session = ?1 ORDER BY id", &[&id]))
    }

    fn known_where(&self, which: Which<'_>) -> Result<Laps, LogbookError> {
        let _moment = self.moment()?;
        let heads = self.lap_heads(which, &self.names()?, None)?;
        self.joined(heads, self.details(which)?, AlikeLaps::new())
    }

    /// Returns laps with what stands beside them; both lie in the order of their numbers here.
    fn joined(
        &self,
        heads: Vec<(i64, LapHead)>,
        Beside { laps: numbers, details }: Beside,
        mut alike: AlikeLaps,
    ) -> Result<Laps, LogbookError> {
        let mut details = numbers.into_iter().zip(details.each());
        let mut laps = Packing::default();
        let set_aside = match alike.is_empty() {
            true => HashMap::new(),
            false => self.set_aside(&self.names()?, None)?,
        };
        for (id, head) in heads {
            let detail = details.find(|(lap, _)| *lap >= id).filter(|(lap, _)| *lap == id);
            let Some((_, details)) = detail else {
                return Err(self.damaged(format!("lap {}", head.name)));
            };
            match taken(&mut alike, &id) {
                // Times of parts lie among what is known besides.
                None if head.parts.is_some() => laps.push(known(head, details)),
                None => laps.push_with(&head, details),
                // They are let go of one after the other, so that millions are not there twice.
                Some(alike) => push_alike(&mut laps, known(head, details), &alike, &set_aside),
            }
        }
        Ok(laps.packed())
    }

    /// Returns what stands beside the heads of laps, in the order of their numbers here.
    fn details(&self, (condition, values): Which<'_>) -> Result<Beside, LogbookError> {
        let _moment = self.moment()?;
        let failed = |source| self.failed("read", source);
        let query = format!(
            "SELECT conditions, produced, left_behind, readings, lap, reason, user_ns, system_ns
             FROM lap_detail {} ORDER BY lap",
            match condition == ALL.0 {
                true => String::new(),
                false => format!("WHERE lap IN (SELECT id FROM lap {condition})"),
            }
        );
        let mut statement = self.db.prepare(&query).map_err(failed)?;
        let mut rows = statement.query(values).map_err(failed)?;
        let mut digests = self.numbered_digests(&self.names()?, (condition, values))?;
        let mut endured = self.endured(condition, values)?;
        let mut all = Beside::default();
        // What is known of the last lap, as it is written: the next often knows the same.
        let mut last: Option<([String; 3], Arc<LapFacts>)> = None;
        while let Some(row) = rows.next().map_err(failed)? {
            let text = |at| -> Sql<&str> { Ok(row.get_ref(at)?.as_str()?) };
            let maybe = |at| -> Sql<Option<&str>> { Ok(row.get_ref(at)?.as_str_or_null()?) };
            let time = |at| -> Sql<_> { Ok(row.get::<_, Option<i64>>(at)?.map(i64::unsigned_abs)) };
            let texts = || -> Sql<DetailTexts<'_>> {
                Ok(DetailTexts {
                    conditions: text(0)?,
                    produced: text(1)?,
                    left_behind: text(2)?,
                    readings: text(3)?,
                    reason: maybe(5)?,
                    user_ns: time(6)?,
                    system_ns: time(7)?,
                })
            };
            let texts = texts().map_err(failed)?;
            let lap: i64 = row.get(4).map_err(failed)?;
            let (frames, endured) = (taken(&mut digests, &lap), taken(&mut endured, &lap));
            let long = [texts.conditions, texts.produced, texts.left_behind];
            let alone = frames.is_none() && endured.is_none() && texts.reason.is_none();
            let same = |(known, facts): &&([String; 3], Arc<LapFacts>)| {
                alone && *known == long && facts.processor_time == texts.processor_time()
            };
            let facts = match last.as_ref().filter(same) {
                Some((_, facts)) => Arc::clone(facts),
                None => {
                    let told = texts.facts().map_err(|what| self.damaged(what))?;
                    let (frames, endured) = (frames.map(Box::new), endured.map(Box::new));
                    let facts = LapFacts { frames, endured, ..told }.shared();
                    last = alone.then(|| (long.map(str::to_owned), Arc::clone(&facts)));
                    facts
                }
            };
            all.laps.push(lap);
            let mut readings = texts.readings().map_err(|what| self.damaged(what))?;
            readings.extend(derived(facts.frames.as_deref(), facts.endured.as_deref()));
            all.details.push(Known { parts: None, readings, facts });
        }
        Ok(all)
    }
}

/// Returns a lap with what is known of it besides.
fn known(mut head: LapHead, details: DetailsOfLap<'_>) -> KnownLap {
    let Known { readings, facts, .. } = details.known();
    head.readings = readings;
    KnownLap { head, facts }
}

/// Adds laps that are like `one` of them; of those that a person has set aside that is known of each.
fn push_alike(
    laps: &mut Packing,
    one: KnownLap,
    AlikeTo { times, details }: &AlikeTo,
    set_aside: &HashMap<LapName, String>,
) {
    let session = one.name.session.clone();
    if !set_aside.keys().any(|name| name.session == session) {
        match details {
            None => laps.push_alike(one, times),
            Some(details) => laps.push_detailed(&one, times, details),
        }
        return;
    }
    let mut details = details.iter().flat_map(LapDetails::each);
    for (number, round, wall) in times.iter() {
        let mut lap = one.clone();
        if let Some(Known { parts, readings, facts }) = details.next().map(DetailsOfLap::known) {
            (lap.head.parts, lap.head.readings, lap.facts) = (parts, readings, facts);
        }
        lap.head.name.number = number;
        (lap.head.round, lap.head.wall) = (round, one.wall.and(Some(wall)));
        lap.head.set_aside = set_aside.get(&lap.head.name).cloned();
        laps.push(lap);
    }
}

/// Returns when each task's last session began, by the task's number here.
fn last_driven(heads: &[(i64, LapHead)], records: &[SessionRecord]) -> HashMap<u32, String> {
    let began: HashMap<&SessionName, &String> =
        records.iter().map(|record| (&record.name, &record.started)).collect();
    let mut last: HashMap<u32, (&SessionName, &String)> = HashMap::new();
    for (_, LapHead { task, name, .. }) in heads {
        let known = last.get(task);
        // Mostly the lap before it of the same task is of the same session.
        if known.is_some_and(|(session, _)| **session == name.session) {
            continue;
        }
        let Some(&this) = began.get(&name.session) else { continue };
        let latest = known.map_or(this, |&(_, known)| known.max(this));
        last.insert(*task, (&name.session, latest));
    }
    last.into_iter().map(|(task, (_, began))| (task, began.clone())).collect()
}
