//! What groups of a comparison are called, and in which order they come.

use crate::words::lap_of;
use honest_lap_core::judge::{Group, HeldConstant, WorkloadView};
use honest_lap_core::record::{Study, TIME};

/// Returns the workloads as the study lists them; those it no longer has come last.
pub fn in_study_order<'a>(study: &Study, views: &'a [WorkloadView]) -> Vec<&'a WorkloadView> {
    let place = |view: &&WorkloadView| {
        study.workloads.iter().position(|workload| workload.name == view.workload)
    };
    let mut views: Vec<&WorkloadView> = views.iter().collect();
    views.sort_by_key(|view| place(view).unwrap_or(usize::MAX));
    views
}

/// Returns what a group is headed with: `dome-still threads=2`.
pub fn heading(view: &WorkloadView, group: &Group) -> String {
    let of = match view.measure.name == TIME {
        true => view.workload.clone(),
        false => format!("{} · {}", view.workload, view.measure.name),
    };
    match &group.held {
        HeldConstant::Variant(settings) => lap_of(&of, settings),
        HeldConstant::Rigs => format!("{of}: the variants on each rig"),
    }
}

/// Returns whether a group shows places: of two rigs the verdict says it already.
pub(super) fn ranked(group: &Group) -> bool {
    group.rows.iter().filter(|row| row.places.is_some()).count() > 2
}
