//! Which values people typed in, cell by cell: a machine has no slipping fingers.

use super::evidence::Evidence;
use crate::lab::{Lap, Run};
use crate::record::{LapName, Settings, TIME};
use std::collections::{BTreeMap, BTreeSet};

/// A workload, a variant of it, a rig and a measure.
pub(super) type CellOf<'a> = (&'a str, &'a Settings, &'a str, &'a str);

/// A counted value.
#[derive(Clone, Copy, Debug)]
pub(super) struct Counted<'a> {
    pub(super) lap: Lap<'a>,
    pub(super) value: f64,
    /// The step in which a person read it; none where a machine did.
    pub(super) step: Option<f64>,
}

/// Returns the counted values of every cell of the workloads of which anything was typed in.
pub(super) fn cells<'a>(evidence: &Evidence<'a>) -> BTreeMap<CellOf<'a>, Vec<Counted<'a>>> {
    let mut cells: BTreeMap<CellOf<'_>, Vec<Counted<'_>>> = BTreeMap::new();
    // Most labs have nothing typed.
    let typed = |run: &Run<'_>| {
        run.alike.read().iter().any(|read| read.step.is_some()) || run.alike.step.is_some()
    };
    let typed: BTreeSet<&str> = evidence
        .series
        .iter()
        .filter(|one| one.runs().any(|run| typed(&run)))
        .map(|one| one.workload.as_str())
        .collect();
    let laps = evidence.series.iter().filter(|one| typed.contains(one.workload.as_str()));
    for lap in laps.flat_map(|one| one.laps()) {
        let of = lap.yields();
        let names = of.readings.names().chain([TIME]);
        for measure in names {
            if let Some(value) = of.value(measure) {
                let key = (lap.workload(), lap.settings(), lap.rig(), measure);
                let step = of.step_of(measure);
                cells.entry(key).or_default().push(Counted { lap, value, step });
            }
        }
    }
    cells
}

/// Returns the names of the laps of a cell that were typed in.
pub(super) fn names(cell: &[Counted<'_>]) -> Vec<LapName> {
    let typed = cell.iter().filter(|counted| counted.step.is_some());
    typed.map(|counted| counted.lap.name()).collect()
}
