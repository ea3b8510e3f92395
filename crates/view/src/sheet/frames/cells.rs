//! Rigs with their passes, and what these come to.

use super::passes::{FramedWorkload, ShownPass};
use crate::number::sampled;
use crate::table::Cell;
use honest_lap_core::frame::{self, PassesSummed, passes_summed};
use honest_lap_core::lab::{CellLimited, most_limited};
use honest_lap_core::record::{Digest, Settings};

/// A rig with its passes, and what those that count come to.
pub(super) struct Cells<'a> {
    pub(super) rig: &'a str,
    pub(super) passes: Vec<&'a ShownPass>,
    pub(super) summed: Option<PassesSummed>,
}

/// Returns the cells of a variant, the highest rate first.
pub(super) fn cells_of<'a>(workload: &'a FramedWorkload, settings: &Settings) -> Vec<Cells<'a>> {
    let here: Vec<&ShownPass> =
        workload.passes.iter().filter(|pass| pass.settings == *settings).collect();
    let mut rigs: Vec<&str> = here.iter().map(|pass| pass.lap.session.rig.as_str()).collect();
    rigs.sort_unstable();
    rigs.dedup();
    let cell = |rig: &&'a str| {
        let passes: Vec<&ShownPass> =
            here.iter().copied().filter(|pass| pass.lap.session.rig == **rig).collect();
        let counted: Vec<&Digest> =
            passes.iter().filter(|pass| pass.counts()).map(|pass| &pass.digest).collect();
        Cells { rig, summed: passes_summed(&counted), passes }
    };
    let mut cells: Vec<Cells<'_>> = rigs.iter().map(cell).collect();
    let rate = |cell: &Cells<'_>| {
        cell.summed.as_ref().map_or(0.0, |summed| value(summed, frame::AVERAGE_RATE).unwrap_or(0.0))
    };
    cells.sort_by(|a, b| rate(b).total_cmp(&rate(a)));
    cells
}

pub(super) fn value(summed: &PassesSummed, name: &str) -> Option<f64> {
    summed.values.iter().find(|(measure, _)| measure.name == name).map(|(_, value)| *value)
}

/// Returns a condition of the passes that count, in the mean.
pub(super) fn seen(passes: &[&ShownPass], name: &str) -> Cell {
    let counted = passes.iter().filter(|pass| pass.counts());
    let known: Vec<f64> = counted.filter_map(|pass| pass.condition(name)).collect();
    let mean = known.iter().sum::<f64>() / known.len() as f64;
    Cell::or_missing(Some(mean).filter(|mean| mean.is_finite()), seen_cell)
}

pub(super) fn seen_cell(value: f64) -> Cell {
    Cell::number(value, sampled(value))
}

/// Returns what limited most of the passes that count.
pub(super) fn limited(passes: &[&ShownPass]) -> Option<CellLimited> {
    let counted = || passes.iter().filter(|pass| pass.counts());
    most_limited(counted().filter_map(|pass| pass.limited.clone()).collect(), counted().count())
}
