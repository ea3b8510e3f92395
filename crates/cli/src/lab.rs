//! The lab: a study's whole logbook, as commands that judge it want it.
//!
//! Everything is read and compared, whatever is shown: the spread between sessions is the study's own,
//! and a figure must not change with what is beside it on the page.

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::capacity::{Searched, as_values, searches};
use honest_lap_core::estimate::{Began, days};
use honest_lap_core::finding::{Doubt, Evidence, doubts};
use honest_lap_core::judge::{
    Ask, Assumptions, BetweenByMeasure, CellTraits, Direction, Row, Table, Weighing, WorkloadView,
    between_by_measure, cell_traits, changes, sides, tables, views,
};
use honest_lap_core::lab::{LapFacts, Sitting, add_energy, measures as energy_measures};
use honest_lap_core::record::TaskForm;
use honest_lap_core::record::{
    LapHead, LapName, LoadRule, Measure, SessionName, SessionRecord, Settings, Study, VersionLine,
};
use honest_lap_logbook::Logbook;
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// What is asked of a lab.
#[derive(Clone, Debug, Default)]
pub struct Asked {
    /// Workloads to look at; all if empty.
    pub workloads: Vec<String>,
    /// The rig that the others are held against; the study's if there is none.
    pub baseline: Option<String>,
    /// How close counts as the same; the study's if there is none.
    pub margin: Option<f64>,
    /// The measures to compare; those of each workload if empty.
    pub measures: Vec<String>,
    /// Why what is not comparable is to be compared anyway.
    pub despite: Option<String>,
    /// Rigs to show; all if empty.
    pub rigs: Vec<String>,
    /// Settings that a variant must have to be shown.
    pub with: Settings,
    /// Which ways to look; every way if empty.
    pub directions: Vec<Direction>,
}

impl Asked {
    /// Returns `tables` with the rows that are asked for.
    pub fn shown<'a>(&self, mut tables: Vec<Table<'a>>) -> Vec<Table<'a>> {
        let wanted = |row: &Row| {
            let has = |(key, value): (&str, &str)| row.settings.get(key) == Some(value);
            (self.rigs.is_empty() || self.rigs.contains(&row.rig)) && self.with.iter().all(has)
        };
        for table in &mut tables {
            table.rows.retain(wanted);
        }
        tables.retain(|table| !table.rows.is_empty());
        tables
    }
}

/// Everything that a logbook says.
pub struct Lab {
    /// The laps that figures are made of: a search for a load is one.
    pub laps: Vec<LapHead>,
    /// Every lap, as it was recorded.
    pub recorded: Vec<LapHead>,
    /// What tasks say of loads, by number.
    rules: BTreeMap<u32, LoadRule>,
    pub facts: HashMap<LapName, Box<LapFacts>>,
    pub tasks: Vec<TaskForm>,
    sittings: Vec<Sitting>,
    versions: Vec<(SessionName, VersionLine)>,
    looked: BTreeSet<SessionName>,
    /// The form of each workload's task that is compared.
    forms: BTreeMap<String, u32>,
    traits: CellTraits,
    /// The between-session variance that is known from more laps than these.
    between: BetweenByMeasure,
    /// The names that its sessions go by, where those are not their own.
    sides: BTreeMap<SessionName, SessionName>,
}

impl Lab {
    /// Reads the logbook of `study`.
    pub fn read(study: &Study, logbook: &Logbook, ctx: &Ctx) -> Result<Self, CmdError> {
        let (tasks, recorded, facts) = (logbook.tasks()?, logbook.laps()?, logbook.facts()?);
        let rules = load_rules(&tasks);
        let laps = as_values(recorded.clone(), &rules);
        let records = logbook.records()?;
        let of_record = |record: &SessionRecord| {
            let name = record.name.clone();
            record.versions.iter().map(move |line| (name.clone(), line.clone())).collect::<Vec<_>>()
        };
        let versions: Vec<_> = records.iter().flat_map(of_record).collect();
        let looked = records.iter().filter(|record| record.about.looked());
        let looked = looked.map(|record| record.name.clone()).collect();
        let mut forms = last_driven(&tasks);
        for workload in &study.workloads {
            // The study's present form, where it has been driven; its last one otherwise.
            if let Some(id) = logbook.task_number(&workload.name, &workload.task)?
                && tasks.iter().any(|form| form.id == id && form.last_driven.is_some())
            {
                forms.insert(workload.name.clone(), id);
            }
        }
        // All by one moment: what began in one second is of one age.
        let age_of = ctx.ages();
        let sitting = |record: SessionRecord| Sitting {
            age: age_of(&record.started),
            name: record.name,
            found: record.found,
        };
        let sittings = records.into_iter().map(sitting).collect();
        let traits = cell_traits(&laps, &facts, &versions);
        let (between, sides) = Default::default();
        let lab = Self {
            between,
            sides,
            traits,
            laps,
            recorded,
            rules,
            facts,
            tasks,
            sittings,
            versions,
            looked,
            forms,
        };
        Ok(lab)
    }

    /// Returns the lab of these sessions alone, as two rigs: `before` a change and `after` it.
    ///
    /// How far days differ is known from all of the study's sessions; the change itself is no part of it.
    pub fn before_and_after(
        self,
        before: &[SessionName],
        after: &[SessionName],
        study: &Study,
    ) -> Self {
        let sides = sides(before, after);
        let apart: Vec<LapHead> = self
            .laps
            .iter()
            .map(|head| {
                let session = &head.name.session;
                let session = sides.get(session).unwrap_or(session).clone();
                LapHead { name: LapName { session, number: head.name.number }, ..head.clone() }
            })
            .collect();
        let between = between_by_measure(&tables(&apart, &self.ask(&Asked::default(), study)));
        let lap = |name: &LapName| {
            let session = sides.get(&name.session)?.clone();
            Some(LapName { session, number: name.number })
        };
        let laps = self
            .laps
            .iter()
            .filter_map(|head| Some(LapHead { name: lap(&head.name)?, ..head.clone() }));
        let laps: Vec<LapHead> = laps.collect();
        let facts = self.facts.iter();
        let facts: HashMap<_, _> =
            facts.filter_map(|(name, facts)| Some((lap(name)?, facts.clone()))).collect();
        let renamed = |name: &SessionName| sides.get(name).cloned();
        let versions = self.versions.iter();
        let versions: Vec<_> =
            versions.filter_map(|(name, line)| Some((renamed(name)?, line.clone()))).collect();
        let sittings = self.sittings.iter();
        let sittings = sittings.filter_map(|sitting| {
            Some(Sitting { name: renamed(&sitting.name)?, ..sitting.clone() })
        });
        let sittings = sittings.collect();
        let looked = self.looked.iter().filter_map(renamed).collect();
        let traits = cell_traits(&laps, &facts, &versions);
        Self { laps, facts, versions, sittings, looked, traits, between, sides, ..self }
    }

    /// Has a doubt speak of sessions by their own names, which other commands know.
    fn by_own_names(&self, doubt: &mut Doubt) {
        // The last first: `before-1` is how `before-12` begins.
        for (own, side) in self.sides.iter().rev() {
            for text in [&mut doubt.evidence, &mut doubt.settle] {
                *text = text
                    .replace(&format!("{side}."), &format!("{own}."))
                    .replace(&format!("{side} "), &format!("{own} "))
                    .replace(&format!("on {}:", side.rig), &format!("on {}:", own.rig));
                if let Some(head) = text.strip_suffix(&side.to_string()) {
                    *text = format!("{head}{own}");
                }
            }
        }
    }

    /// Returns everything on record that differs between before and after.
    pub fn changes(&self) -> Vec<String> {
        changes(&self.sittings, &self.versions)
    }

    /// Returns whether it has a session of this name.
    pub fn has(&self, session: &SessionName) -> bool {
        self.sittings.iter().any(|sitting| sitting.name == *session)
    }

    /// Returns every measure that its laps have, the time first.
    pub fn measures(&self) -> Vec<Measure> {
        let mut all = vec![Measure::time()];
        let read = self.laps.iter().flat_map(|lap| &lap.readings).map(|reading| reading.measure());
        let facts = || self.facts.values().map(|facts| &**facts);
        for measure in read.chain(energy_measures(facts())) {
            if all.iter().all(|known| known.name != measure.name) {
                all.push(measure);
            }
        }
        all
    }

    /// Adds energy and power to the laps, where any of `wanted` is about them.
    pub fn add_energy(&mut self, wanted: &[String]) {
        let known = energy_measures(self.facts.values().map(|facts| &**facts));
        if known.iter().any(|measure| wanted.contains(&measure.name)) {
            add_energy(&mut self.laps, &self.facts);
        }
    }

    /// Returns what `asked` comes to for its laps.
    pub fn ask(&self, asked: &Asked, study: &Study) -> Ask {
        let baseline = asked.baseline.iter().chain(&study.baseline).cloned();
        let rigs = study.rigs.iter().map(|rig| rig.name.clone());
        let variants = study.workloads.iter().map(|w| (w.name.clone(), w.variants()));
        let form_of = |id: &u32| self.tasks.iter().find(|form| form.id == *id);
        let is_untimed = |id: &u32| form_of(id).is_some_and(|form| form.task.kind.is_untimed());
        let untimed = self.forms.iter().filter(|(_, id)| is_untimed(id));
        let unsupported = study.rigs.iter().flat_map(|rig| {
            let of = |(workload, why): &(String, String)| {
                ((rig.name.clone(), workload.clone()), why.clone())
            };
            rig.unsupported.iter().map(of)
        });
        Ask {
            traits: self.traits.clone(),
            despite: asked.despite.is_some(),
            unsupported: unsupported.collect(),
            untimed: untimed.map(|(name, _)| name.clone()).collect(),
            measures: asked.measures.clone(),
            looked: self.looked.clone(),
            rig_order: baseline.chain(rigs).collect(),
            variant_order: variants.collect(),
            tasks: self.forms.clone(),
            directions: asked.directions.clone(),
            margin: asked.margin.unwrap_or(study.margin),
            between: self.between.clone(),
            days: self.days(),
        }
    }

    /// Returns the session whose day each session shares.
    fn days(&self) -> BTreeMap<SessionName, SessionName> {
        let began = self.sittings.iter().map(|sitting| Began {
            name: &sitting.name,
            age: sitting.age,
            found: &sitting.found,
        });
        let began: Vec<Began<'_>> = began.collect();
        days(&began, &self.versions)
    }

    /// Returns the searches for a load in it.
    pub fn searches(&self) -> Vec<Searched<'_>> {
        searches(&self.recorded, &self.rules)
    }

    /// Returns its laps summed up as `ask` says.
    pub fn tables(&self, ask: &Ask) -> Vec<Table<'_>> {
        tables(&self.laps, ask)
    }

    /// Returns its laps judged and doubted as `asked` says.
    pub fn judged(&self, asked: &Asked, study: &Study) -> Judged {
        let ask = self.ask(asked, study);
        let tables = self.tables(&ask);
        // Of everything, whatever is shown: how far days differ is the study's own.
        let tables = asked.shown(tables);
        let assume = Assumptions::of(ask.margin);
        let views = views(&tables, &ask, &assume);
        // Only laps of the compared form stand beside each other.
        let compared = |lap: &&LapHead| ask.tasks.get(&lap.workload) == Some(&lap.task);
        let laps: Vec<LapHead> = self.laps.iter().filter(compared).cloned().collect();
        let mut doubts = doubts(&Evidence {
            laps: &laps,
            facts: &self.facts,
            versions: &self.versions,
            views: &views,
            untimed: &ask.untimed,
            sittings: &self.sittings,
            study,
            assume: &assume,
            searches: &self.searches(),
        });
        doubts.iter_mut().for_each(|doubt| self.by_own_names(doubt));
        Judged { ask, laps, views, doubts, assume }
    }
}

/// Returns what tasks say of loads, by number.
pub fn load_rules(tasks: &[TaskForm]) -> BTreeMap<u32, LoadRule> {
    let rule = |form: &TaskForm| Some((form.id, form.task.load.clone()?));
    tasks.iter().filter_map(rule).collect()
}

/// Returns how the study's workloads are weighed.
pub fn weighing(study: &Study, ask: &Ask, assume: Assumptions) -> Weighing {
    Weighing {
        weights: study.workloads.iter().map(|w| (w.name.clone(), w.weight)).collect(),
        rig_order: ask.rig_order.clone(),
        assume,
        only: BTreeSet::new(),
    }
}

/// A lab's laps, judged and doubted.
pub struct Judged {
    pub ask: Ask,
    /// The laps of the compared forms.
    pub laps: Vec<LapHead>,
    pub views: Vec<WorkloadView>,
    pub doubts: Vec<Doubt>,
    pub assume: Assumptions,
}

/// Says which name of `asked` the laps do not have.
pub fn check_names(asked: &Asked, lab: &Lab) -> Result<(), CmdError> {
    let known = |of: fn(&LapHead) -> &str| lab.laps.iter().map(of).collect::<BTreeSet<&str>>();
    let list = |names: BTreeSet<&str>| names.into_iter().collect::<Vec<_>>().join(", ");
    let workloads = known(|lap| &lap.workload);
    if let Some(unknown) = asked.workloads.iter().find(|w| !workloads.contains(w.as_str())) {
        return Err(CmdError::request(
            format!("no laps of a workload `{unknown}` are in the logbook"),
            format!("it has laps of: {}", list(workloads)),
        ));
    }
    let known_measures = if asked.measures.is_empty() { Vec::new() } else { lab.measures() };
    let measures: BTreeSet<&str> = known_measures.iter().map(|m| m.name.as_str()).collect();
    if let Some(unknown) = asked.measures.iter().find(|m| !measures.contains(m.as_str())) {
        return Err(CmdError::request(
            format!("no lap in the logbook has a measure `{unknown}`"),
            format!("they have: {}", list(measures)),
        ));
    }
    let rigs = known(|lap| &lap.name.session.rig);
    match asked.baseline.iter().chain(&asked.rigs).find(|rig| !rigs.contains(rig.as_str())) {
        Some(rig) => Err(CmdError::request(
            format!("no laps of a rig `{rig}` are in the logbook"),
            format!("it has laps of: {}", list(rigs)),
        )),
        _ => Ok(()),
    }
}

fn last_driven(tasks: &[TaskForm]) -> BTreeMap<String, u32> {
    let mut last: BTreeMap<String, (&Option<String>, u32)> = BTreeMap::new();
    for form in tasks.iter().filter(|form| form.last_driven.is_some()) {
        let this = (&form.last_driven, form.id);
        let known = last.entry(form.workload.clone()).or_insert(this);
        *known = this.max(*known);
    }
    last.into_iter().map(|(workload, (_, id))| (workload, id)).collect()
}
