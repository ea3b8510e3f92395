//! The lab itself: everything on record, and what follows from it before anything is asked.

use super::capped::{Capped, capped};
use super::change::{AFTER, BesideChange, named_by_side};
use super::choice::Choice;
use super::day::{Began, days};
use super::facts::{KnownLap, LabSession, LapFacts};
use super::series::{LapSeries, Places, at, places};
use super::settings::{AllModes, parts_of};
use super::traits::{CellTraits, Traits, cell_traits};
use crate::capacity::{ByHand, Searched, as_values, searches};
use crate::record::{
    LapHead, LapName, LoadRule, Measure, Origin, SessionName, SessionRecord, Study, TaskForm,
    VersionLine,
};
use crate::unit::Nanos;
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

/// Everything that is on record of a study.
#[derive(Clone, Debug, Default)]
pub struct Records {
    /// The forms that its workloads' tasks have had.
    pub tasks: Vec<TaskForm>,
    /// Every lap.
    pub laps: Vec<KnownLap>,
    /// The sessions, each with how long ago it began, where that is known.
    pub sessions: Vec<(SessionRecord, Option<Nanos>)>,
}

/// A study with everything that is on record of it.
#[derive(Clone, Debug, Default)]
pub struct Lab {
    /// The study.
    pub study: Study,
    /// Every lap, as it was recorded.
    pub recorded: Vec<KnownLap>,
    /// The laps that figures are made of, where these are others: a search for a load is one.
    pub(super) values: Option<Vec<KnownLap>>,
    /// The forms that its workloads' tasks have had.
    pub tasks: Vec<TaskForm>,
    /// Its sessions.
    pub sessions: Vec<LabSession>,
    /// What programs said of their versions, by session.
    pub versions: Vec<(SessionName, VersionLine)>,
    /// Where the laps of each series lie among those that figures are made of.
    pub(super) places: Places,
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
    pub(crate) history: Option<Vec<KnownLap>>,
}

impl Lab {
    /// Returns the lab of `study` with what is on record of it.
    pub fn of(study: Study, records: Records) -> Self {
        let Records { tasks, laps: mut recorded, sessions: records } = records;
        study.tell(recorded.iter_mut().map(|lap| &mut lap.head));
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
        lab.values = (!lab.rules.is_empty()).then(|| lab.with_searches_as_values());
        lab.settled()
    }

    /// Returns its laps with every search as one, of which is known what is known of its last.
    fn with_searches_as_values(&self) -> Vec<KnownLap> {
        let known: HashMap<&LapName, &Arc<LapFacts>> =
            self.recorded.iter().map(|lap| (&lap.name, &lap.facts)).collect();
        let heads = self.recorded.iter().map(|lap| lap.head.clone()).collect();
        let values = as_values(heads, &self.rules, &self.by_hand).into_iter();
        let with_facts = |head: LapHead| KnownLap {
            facts: known.get(&head.name).map_or_else(Arc::default, |&facts| Arc::clone(facts)),
            head,
        };
        values.map(with_facts).collect()
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
        self.places = places(self.laps());
        let found = cell_traits(&self.series(), &self.versions, &same_picture);
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
        self.capped = capped(&framed, &self.series());
        self.days = self.shared_days();
        self
    }

    /// Returns the laps that figures are made of: a search for a load is one.
    pub fn laps(&self) -> &[KnownLap] {
        self.values.as_deref().unwrap_or(&self.recorded)
    }

    /// Returns the laps that figures are made of in series, in the order in which these began.
    pub fn series(&self) -> Vec<LapSeries<'_>> {
        at(self.laps(), &self.places)
    }

    /// Returns `laps`, which are those with other readings, in series.
    pub(crate) fn series_of<'l>(&self, laps: &'l [KnownLap]) -> Vec<LapSeries<'l>> {
        at(laps, &self.places)
    }

    /// Returns the lab of these sessions alone, as two rigs: `before` a change and `after` it.
    ///
    /// How far days differ is known from all of the study's sessions; the change itself is no part of it.
    pub fn before_and_after(&self, before: &[SessionName], after: &[SessionName]) -> Self {
        let sides = named_by_side(before, after);
        let renamed = |lap: &KnownLap, session: &SessionName| {
            let mut lap = lap.clone();
            lap.name.session = session.clone();
            lap
        };
        let all = self.history.as_deref().unwrap_or_else(|| self.laps());
        let history = all.iter().map(|lap| {
            let session = &lap.name.session;
            renamed(lap, sides.get(session).unwrap_or(session))
        });
        let history = Some(history.collect());
        let chosen = |laps: &[KnownLap]| -> Vec<KnownLap> {
            let side = |lap: &KnownLap| Some(renamed(lap, sides.get(&lap.name.session)?));
            laps.iter().filter_map(side).collect()
        };
        let (recorded, values) = (chosen(&self.recorded), self.values.as_deref().map(chosen));
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
        for reading in self.laps().iter().flat_map(|lap| &lap.readings) {
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
        searches(&self.recorded, &self.rules, &self.by_hand)
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
