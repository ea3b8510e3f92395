//! Which values people typed in, cell by cell: a machine has no slipping fingers.

use super::evidence::Evidence;
use crate::lab::KnownLap;
use crate::record::{LapHead, LapName, Settings, TIME};
use std::collections::{BTreeMap, BTreeSet};

/// A workload, a variant of it, a rig and a measure.
pub(super) type CellOf<'a> = (&'a str, &'a Settings, &'a str, &'a str);

/// A counted value.
#[derive(Clone, Copy, Debug)]
pub(super) struct Counted<'a> {
    pub(super) lap: &'a LapHead,
    pub(super) value: f64,
    /// The step in which a person read it; none where a machine did.
    pub(super) step: Option<f64>,
}

/// Returns the counted values of every cell of the workloads of which anything was typed in.
pub(super) fn cells<'a>(evidence: &Evidence<'a>) -> BTreeMap<CellOf<'a>, Vec<Counted<'a>>> {
    let mut cells: BTreeMap<CellOf<'_>, Vec<Counted<'_>>> = BTreeMap::new();
    // Most labs have nothing typed.
    let typed = |lap: &&&KnownLap| {
        lap.readings.iter().any(|read| read.step.is_some()) || lap.step.is_some()
    };
    let typed: BTreeSet<&str> =
        evidence.laps.iter().filter(typed).map(|lap| lap.workload.as_str()).collect();
    for &lap in evidence.laps.iter().filter(|lap| typed.contains(lap.workload.as_str())) {
        let names = lap.readings.iter().map(|reading| reading.name.as_str()).chain([TIME]);
        for measure in names {
            if let Some(value) = lap.value(measure) {
                let rig = lap.name.session.rig.as_str();
                let key = (lap.workload.as_str(), &lap.settings, rig, measure);
                let step = lap.step_of(measure);
                cells.entry(key).or_default().push(Counted { lap, value, step });
            }
        }
    }
    cells
}

/// Returns the names of the laps of a cell that were typed in.
pub(super) fn names(cell: &[Counted<'_>]) -> Vec<LapName> {
    let typed = cell.iter().filter(|counted| counted.step.is_some());
    typed.map(|counted| counted.lap.name.clone()).collect()
}
