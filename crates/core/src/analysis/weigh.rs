//! The workloads of a study, weighed: all of them, and by group.

use super::question::Question;
use crate::judge::{Ask, Assumptions, Overall, Weighing, WorkloadView, overall};
use crate::record::{Study, Workload};
use serde::Serialize;
use std::collections::BTreeSet;

/// What an index is over.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Over {
    /// Every workload that is asked for.
    Everything,
    /// Those of a group.
    Only(String),
    /// Those of no group or of another.
    Without(String),
}

/// An index, and what it is over.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Index {
    /// What it is over.
    pub over: Over,
    /// The index.
    pub found: Overall,
}

/// Returns how the study's workloads are weighed.
pub(super) fn weighing(study: &Study, ask: &Ask, assume: Assumptions) -> Weighing {
    Weighing {
        weights: study.workloads.iter().map(|w| (w.name.clone(), w.weight)).collect(),
        rig_order: ask.rig_order.clone(),
        assume,
        only: BTreeSet::new(),
    }
}

/// Returns the indexes over the workloads that are asked for: over everything, and by group.
pub(super) fn indexes(
    question: &Question,
    study: &Study,
    views: &[WorkloadView],
    weighing: &Weighing,
) -> Vec<Index> {
    // What the study no longer has weighs nothing.
    let named = |workload: &&Workload| question.is_about(&workload.name);
    let workloads: Vec<&Workload> = study.workloads.iter().filter(named).collect();
    let index = |over: Over, wanted: &dyn Fn(&Workload) -> bool| {
        let only: BTreeSet<String> =
            workloads.iter().filter(|w| wanted(w)).map(|w| w.name.clone()).collect();
        // Of nothing there is no index: an empty list would mean all.
        let found = match only.is_empty() {
            true => Overall::default(),
            false => overall(views, &Weighing { only, ..weighing.clone() }),
        };
        Index { over, found }
    };
    let mut all = vec![index(Over::Everything, &|_| true)];
    let groups: BTreeSet<&String> = workloads.iter().filter_map(|w| w.group.as_ref()).collect();
    for group in groups {
        let of = |workload: &Workload| workload.group.as_ref() == Some(group);
        if workloads.iter().all(|workload| of(workload)) {
            continue;
        }
        all.push(index(Over::Only(group.clone()), &of));
        all.push(index(Over::Without(group.clone()), &|workload| !of(workload)));
    }
    all
}
