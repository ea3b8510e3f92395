//! The lab itself: everything on record, and what follows from it before anything is asked.

use super::capped::{Capped, capped};
use super::change::{AFTER, BesideChange, named_by_side};
use super::choice::Choice;
use super::day::{Began, days};
use super::facts::{KnownLap, LabSession};
use super::laps::{Laps, Packing};
use super::series::{Lap, LapSeries};
use super::settings::{AllModes, parts_of};
use super::traits::{CellTraits, Traits, cell_traits};
use crate::capacity::{ByHand, Searched, as_values, searches};
use crate::record::{
    LapHead, LapName, LoadRule, Measure, Origin, SessionName, SessionRecord, Study, TaskForm,
    VersionLine,
};
use crate::unit::Nanos;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// Everything that is on record of a study.
#[derive(Clone, Debug, Default)]
pub struct Records {
    /// The forms that its workloads' tasks have had.
    pub tasks: Vec<TaskForm>,
    /// Every lap.
    pub laps: Laps,
    /// The sessions, each with how long ago it began, where that is known.
    pub sessions: Vec<(SessionRecord, Option<Nanos>)>,
}

/// A study with everything that is on record of it.
#[derive(Clone, Debug, Default)]
pub struct Lab {
    /// The study.
    pub study: Study,
    /// Every lap, as it was recorded.
    pub recorded: Laps,
    /// The laps that figures are made of, where these are others: a search for a load is one.
    pub(super) values: Option<Laps>,
    /// The laps of searches for a load, as they were recorded.
    tried: Vec<LapHead>,
    /// The forms that its workloads' tasks have had.
    pub tasks: Vec<TaskForm>,
    /// Its sessions.
    pub sessions: Vec<LabSession>,
    /// What programs said of their versions, by session.
    pub versions: Vec<(SessionName, VersionLine)>,
    /// What of the study's laps it has.
    pub(crate) choice: Choice,
    /// Sessions that ended when their laps were precise enough.
    pub(crate) looked: BTreeSet<SessionName>,
    /// Sessions whose values were typed in.
    pub(crate) typed: BTreeSet<SessionName>,
    /// The form of each workload's task that is compared.
    pub(crate) forms: BTreeMap<String, u32>,
    /// What cells were run under, and what they came to.
    pub(crate) traits: CellTraits,
    /// How programs were set, session by session.
    pub(crate) modes: AllModes,
    /// What keeps to a display's rate or a limiter's.
    pub(crate) capped: Capped,
    /// The session whose day each session shares.
    pub(crate) days: BTreeMap<SessionName, SessionName>,
    /// What tasks say of loads, by number.
    rules: BTreeMap<u32, LoadRule>,
    /// The session whose day each session shares that people wrote down.
    by_hand: ByHand,
    /// The names that its sessions go by, where those are not their own.
    sides: BTreeMap<SessionName, SessionName>,
    /// All laps of the study, where only some of its sessions are held against each other.
    pub(crate) history: Option<Laps>,
}

impl Lab {
    /// Returns the lab of `study` with what is on record of it.
    pub fn of(study: Study, records: Records) -> Self {
        let Records { tasks, laps: mut recorded, sessions: records } = records;
        recorded.told_by(&study);
        let rules = load_rules(&tasks);
        let mut forms = last_run(&tasks);
        for workload in &study.workloads {
            // The study's present form, where it has been run; its last one otherwise.
            let present = |form: &&TaskForm| {
                form.last_driven.is_some()
                    && form.workload == workload.name
                    && form.task == workload.task
            };
            if let Some(form) = tasks.iter().find(present) {
                forms.insert(workload.name.clone(), form.id);
            }
        }
        let mut lab = Self { study, recorded, tasks, forms, rules, ..Self::default() };
        let mut by_hand = Vec::new();
        for (record, age) in records {
            let (day, parts) = (record.day(), parts_of(&lab.study, &record));
            let SessionRecord { name, found, versions, about, .. } = record;
            lab.versions.extend(versions.into_iter().map(|line| (name.clone(), line)));
            if about.looked() {
                lab.looked.insert(name.clone());
            }
            if about.origin == Origin::Entered {
                lab.typed.insert(name.clone());
            }
            if matches!(about.origin, Origin::Entered | Origin::Clocked) {
                by_hand.push(name.clone());
            }
            lab.sessions.push(LabSession { name, found, age, day, parts, remark: about.remark });
        }
        lab.days = lab.shared_days();
        let day = |name: SessionName| {
            let day = lab.days.get(&name).unwrap_or(&name).clone();
            (name, day)
        };
        lab.by_hand = by_hand.into_iter().map(day).collect();
        if !lab.rules.is_empty() {
            let searched =
                lab.recorded.filter_map(|series| lab.is_search(series).then(|| series.clone()));
            lab.tried = searched.in_order().iter().map(Lap::head).collect();
            lab.values = Some(lab.with_searches_as_values(&searched));
        }
        lab.settled()
    }

    /// Returns whether laps of `series` are tries of a search for a load.
    fn is_search(&self, series: &LapSeries) -> bool {
        self.rules.contains_key(&series.task)
    }

    /// Returns its laps with every search, of which `searched` are the laps, as one, of which is known what is known of its
    /// last.
    fn with_searches_as_values(&self, searched: &Laps) -> Laps {
        let values = as_values(self.tried.clone(), &self.rules, &self.by_hand);
        let mut packing = Packing::default();
        for head in values {
            let of_last = searched.lap(&head.name).map(|lap| Arc::new(lap.facts()));
            packing.push(KnownLap { head, facts: of_last.unwrap_or_default() });
        }
        let others = self.recorded.filter_map(|one| (!self.is_search(one)).then(|| one.clone()));
        others.with(packing.packed())
    }

    /// Returns the session whose day each session shares.
    fn shared_days(&self) -> BTreeMap<SessionName, SessionName> {
        let began = self.sessions.iter().map(|session| Began {
            name: &session.name,
            age: session.age,
            found: &session.found,
            parts: &session.parts,
        });
        days(&began.collect::<Vec<_>>(), &self.versions)
    }

    /// Returns it with what follows from its laps, sessions and versions.
    pub(super) fn settled(mut self) -> Self {
        let same_picture = |workload: &str, file: &str| self.study.same_picture(workload, file);
        let found = cell_traits(self.series(), &self.versions, &same_picture);
        (self.traits, self.modes) = found;
        if self.is_of_change() {
            // How a program is set may be the very change that is asked about: it is listed, and keeps nothing apart.
            self.traits.values_mut().for_each(Traits::forget_modes);
        }
        let mut framed = BTreeMap::new();
        for (workload, id) in &self.forms {
            let form = self.tasks.iter().find(|form| form.id == *id);
            if form.is_some_and(|form| form.task.kind.framed().is_some()) {
                framed.insert(workload.as_str(), *id);
            }
        }
        self.capped = capped(&framed, self.series());
        self.days = self.shared_days();
        self
    }

    /// Returns the laps that figures are made of: a search for a load is one.
    pub fn laps(&self) -> &Laps {
        self.values.as_ref().unwrap_or(&self.recorded)
    }

    /// Returns the same in series, in the order in which these began.
    pub fn series(&self) -> &[LapSeries] {
        self.laps().series()
    }

    /// Returns the lab of these sessions alone, as two rigs: `before` a change and `after` it.
    ///
    /// How far days differ is known from all of the study's sessions; the change itself is no part of it.
    pub fn before_and_after(&self, before: &[SessionName], after: &[SessionName]) -> Self {
        let sides = named_by_side(before, after);
        let named = |series: &LapSeries, session: &SessionName| LapSeries {
            session: session.clone(),
            ..series.clone()
        };
        let all = self.history.as_ref().unwrap_or_else(|| self.laps());
        let history = all.filter_map(|series| {
            Some(named(series, sides.get(&series.session).unwrap_or(&series.session)))
        });
        let history = Some(history);
        let side = |series: &LapSeries| Some(named(series, sides.get(&series.session)?));
        let recorded = self.recorded.filter_map(side);
        let values = self.values.as_ref().map(|laps| laps.filter_map(side));
        let tried = self.tried.iter().filter_map(|lap| {
            let session = sides.get(&lap.name.session)?.clone();
            let name = LapName { session, number: lap.name.number };
            Some(LapHead { name, ..lap.clone() })
        });
        let tried = tried.collect();
        let versions = self.versions.iter();
        let versions = versions
            .filter_map(|(name, line)| Some((sides.get(name)?.clone(), line.clone())))
            .collect();
        let sessions = self.sessions.iter().filter_map(|session| {
            Some(LabSession { name: sides.get(&session.name)?.clone(), ..session.clone() })
        });
        let sessions = sessions.collect();
        let looked = self.looked.iter().filter_map(|name| sides.get(name).cloned()).collect();
        let (study, tasks) = (self.study.clone(), self.tasks.clone());
        let (forms, rules) = (self.forms.clone(), self.rules.clone());
        let choice = self.choice.clone();
        let lab = Self {
            study,
            recorded,
            values,
            tried,
            tasks,
            sessions,
            versions,
            looked,
            forms,
            rules,
            sides,
            choice,
            history,
            ..Self::default()
        };
        lab.settled()
    }

    /// Returns the name by which other commands know the session that goes by `name` here.
    pub fn own_name<'a>(&'a self, name: &'a SessionName) -> &'a SessionName {
        self.sides.iter().find(|(_, side)| *side == name).map_or(name, |(own, _)| own)
    }

    /// Returns whether it is of the two sides of a change.
    pub(crate) fn is_of_change(&self) -> bool {
        !self.sides.is_empty()
    }

    /// Returns which sessions stand on which side of a change, where it is of one.
    pub(crate) fn around_change(&self) -> Vec<BesideChange> {
        let remark = |side: &SessionName| {
            self.sessions.iter().find(|session| session.name == *side)?.remark.clone()
        };
        let beside = |(session, side): (&SessionName, &SessionName)| BesideChange {
            session: session.clone(),
            is_after: side.rig == AFTER,
            remark: remark(side),
        };
        self.sides.iter().map(beside).collect()
    }

    /// Returns its sessions.
    pub fn sessions(&self) -> &[LabSession] {
        &self.sessions
    }

    /// Returns every measure that its laps have, the time first.
    pub fn measures(&self) -> Vec<Measure> {
        let mut all = vec![Measure::time()];
        let mut known: BTreeSet<&str> = BTreeSet::from([crate::record::TIME]);
        let runs = self.series().iter().flat_map(LapSeries::runs);
        for reading in runs.flat_map(|run| run.alike.read()) {
            if known.insert(&reading.name) {
                all.push(reading.measure());
            }
        }
        let derived = self.derived_measures().into_iter();
        all.extend(derived.filter(|measure| !known.contains(measure.name.as_str())));
        all
    }

    /// Returns the searches for a load in it.
    pub fn searches(&self) -> Vec<Searched<'_>> {
        searches(&self.tried, &self.rules, &self.by_hand)
    }
}

/// Returns what tasks say of loads, by number.
pub fn load_rules(tasks: &[TaskForm]) -> BTreeMap<u32, LoadRule> {
    let rule = |form: &TaskForm| Some((form.id, form.task.kind.load().cloned()?));
    tasks.iter().filter_map(rule).collect()
}

/// Returns the form of each workload's task that was run last.
fn last_run(tasks: &[TaskForm]) -> BTreeMap<String, u32> {
    let mut last: BTreeMap<&str, (&Option<String>, u32)> = BTreeMap::new();
    for form in tasks.iter().filter(|form| form.last_driven.is_some()) {
        let this = (&form.last_driven, form.id);
        let known = last.entry(&form.workload).or_insert(this);
        *known = this.max(*known);
    }
    last.into_iter().map(|(workload, (_, id))| (workload.to_owned(), id)).collect()
}
