//! From a question to what judging needs to know.

use super::question::{Across, Question};
use crate::judge::{Ask, BetweenByMeasure, Direction, Table, between_by_measure, tables};
use crate::lab::{AllBeside, BEFORE, Lab, Lap, LapSeries};
use crate::record::{LapName, Loads, Work};
use std::collections::{BTreeMap, HashMap};

/// Returns what `question` comes to for the laps of `lab`, compared by `measures`.
pub(super) fn ask(
    lab: &Lab,
    question: &Question,
    measures: &[String],
    between: &BetweenByMeasure,
) -> Ask {
    let study = &lab.study;
    let change = lab.is_of_change().then(|| BEFORE.to_owned());
    let baseline = change.iter().chain(&question.baseline).chain(&study.baseline).cloned();
    let rigs = study.rigs.iter().map(|rig| rig.name.clone());
    let variants = study.workloads.iter().map(|w| (w.name.clone(), w.variants()));
    let form_of = |id: &u32| lab.tasks.iter().find(|form| form.id == *id);
    let is_untimed = |id: &u32| form_of(id).is_some_and(|form| form.task.kind.is_untimed());
    let untimed = lab.forms.iter().filter(|(_, id)| is_untimed(id));
    let unsupported = study.rigs.iter().map(|rig| (rig.name.clone(), rig.unsupported.clone()));
    let stated_spread = study.workloads.iter().filter_map(|w| Some((w.name.clone(), w.assume_cv?)));
    let directions = match question.across {
        Across::Rigs => vec![Direction::Rigs],
        Across::Variants => vec![Direction::Variants],
        Across::Both | Across::Setting(_) => Vec::new(),
    };
    let parts = lab.tasks.iter().flat_map(|form| {
        let of = form.task.splits.iter().flat_map(|splits| &splits.parts);
        of.map(|rule| (form.workload.clone(), rule.part.clone()))
    });
    Ask {
        capped: lab.capped.cells.clone(),
        by_work: lab.capped.by_work.clone(),
        parts: parts.collect(),
        traits: lab.traits.clone(),
        beside: AllBeside::default(),
        works: works(lab),
        steps: steps(lab),
        reasons: reasons(lab),
        peaks: study.rigs.iter().map(|rig| (rig.name.clone(), rig.peaks.clone())).collect(),
        despite: question.despite.is_some(),
        unsupported: unsupported.collect(),
        untimed: untimed.map(|(name, _)| name.clone()).collect(),
        measures: measures.to_vec(),
        looked: lab.looked.clone(),
        rig_order: baseline.chain(rigs).collect(),
        variant_order: variants.collect(),
        tasks: lab.forms.clone(),
        directions,
        margin: question.margin.unwrap_or(study.margin),
        stated_between: study.between_sessions,
        stated_spread: stated_spread.collect(),
        between: between.clone(),
        days: lab.days.clone(),
        typed: lab.typed.clone(),
    }
}

/// Returns how far days differ by all of the study's sessions, where only some of them are compared.
pub(super) fn between(lab: &Lab, question: &Question) -> BetweenByMeasure {
    let Some(history) = &lab.history else { return BetweenByMeasure::default() };
    let everything =
        ask(lab, &Question::default(), &question.measures, &BetweenByMeasure::default());
    between_by_measure(&tables(history, &everything))
}

/// Returns `tables` with the rows that are asked for.
pub(super) fn chosen<'l>(question: &Question, mut tables: Vec<Table<'l>>) -> Vec<Table<'l>> {
    let (rigs, with) = (&question.rigs, &question.with);
    for table in &mut tables {
        table.rows.retain(|row| {
            (rigs.is_empty() || rigs.contains(&row.rig)) && row.settings.has_all(with)
        });
    }
    tables.retain(|table| !table.rows.is_empty());
    tables
}

/// Returns why laps failed.
fn reasons(lab: &Lab) -> HashMap<LapName, String> {
    let runs = lab.recorded.series().iter().flat_map(LapSeries::runs);
    let failed = runs.filter(|run| run.alike.outcome.is_failure());
    let reason = |lap: Lap<'_>| Some((lap.name(), lap.alike.reason()?.to_owned()));
    failed.flat_map(|run| run.laps()).filter_map(reason).collect()
}

/// Returns the names of the loads of the workloads that have them.
fn steps(lab: &Lab) -> BTreeMap<String, Vec<String>> {
    let of = |(workload, id): (&String, &u32)| {
        let form = lab.tasks.iter().find(|form| form.id == *id)?;
        match &form.task.kind.load()?.loads {
            Loads::Named(names) => Some((workload.clone(), names.clone())),
            Loads::Range { .. } => None,
        }
    };
    lab.forms.iter().filter_map(of).collect()
}

fn works(lab: &Lab) -> BTreeMap<String, Work> {
    let of = |(workload, id): (&String, &u32)| {
        let form = lab.tasks.iter().find(|form| form.id == *id)?;
        Some((workload.clone(), form.task.work.clone()?))
    };
    lab.forms.iter().filter_map(of).collect()
}
