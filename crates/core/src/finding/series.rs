//! The counted values of one cell in one session, in the order run: what tests of laps run on.

use super::evidence::Evidence;
use super::parts::SeriesName;
use crate::record::{LapHead, LapName, SessionName, Settings, TIME};
use crate::stat::{Scatter, logs};
use std::collections::HashMap;

/// A series of laps.
pub(super) struct Series<'a> {
    pub(super) workload: &'a str,
    /// The form of its task.
    task: u32,
    pub(super) session: &'a SessionName,
    pub(super) settings: &'a Settings,
    /// The measure that its values are of.
    pub(super) measure: &'a str,
    /// Whether warm-up laps were run ahead of it.
    pub(super) warmed_up: bool,
    /// Name and value of every counted lap.
    pub(super) laps: Vec<(&'a LapName, f64)>,
}

impl Series<'_> {
    pub(super) fn values(&self) -> Vec<f64> {
        self.laps.iter().map(|(_, value)| *value).collect()
    }

    /// Returns the logs of its values; of values without logs there is nothing to test.
    pub(super) fn logs(&self) -> Vec<f64> {
        logs(&self.values()).unwrap_or_default()
    }

    /// Returns what tells the cell that it is of.
    fn cell(&self) -> Cell<'_> {
        (self.workload, self.task, &self.session.rig, self.settings)
    }

    /// Returns what the series is of.
    pub(super) fn name(&self) -> SeriesName {
        SeriesName { session: self.session.clone(), settings: self.settings.clone() }
    }
}

type Cell<'a> = (&'a str, u32, &'a str, &'a Settings);

/// The scatter of the laps of every cell, all sessions together: sessions differ, and the spread of laps within one
/// is much the same in each.
pub(super) struct CellScatter<'a>(HashMap<Cell<'a>, Scatter>);

impl<'a> CellScatter<'a> {
    /// Returns the scatter of `of` each series, summed over its cell.
    pub(super) fn of(all: &'a [Series<'a>], of: impl Fn(&[f64]) -> Scatter) -> Self {
        let mut cells: HashMap<Cell<'a>, Scatter> = HashMap::new();
        for series in all {
            let sum = cells.entry(series.cell()).or_default();
            *sum = sum.plus(of(&series.logs()));
        }
        Self(cells)
    }

    /// Returns that of a series' cell, in which the series itself counts as `own` and not as `counted`.
    pub(super) fn with(&self, series: &Series<'_>, counted: Scatter, own: Scatter) -> Scatter {
        let cell = self.0.get(&series.cell()).copied().unwrap_or_default();
        cell.without(counted).plus(own)
    }
}

/// Returns every series of `evidence`: of times, or of the first reading where a workload is not
/// about its time.
pub(super) fn series<'a>(evidence: &'a Evidence<'_>) -> Vec<Series<'a>> {
    type Key<'a> = (&'a str, u32, &'a SessionName, &'a Settings);
    let mut places: HashMap<Key<'a>, usize> = HashMap::new();
    let mut all: Vec<Series<'a>> = Vec::new();
    for lap in evidence.laps {
        let (workload, session, settings) =
            (lap.workload.as_str(), &lap.name.session, &lap.settings);
        let place = *places.entry((workload, lap.task, session, settings)).or_insert_with(|| {
            let (measure, warmed_up, laps) = (measure(lap, evidence), false, Vec::new());
            let task = lap.task;
            all.push(Series { workload, task, session, settings, measure, warmed_up, laps });
            all.len() - 1
        });
        let series = &mut all[place];
        series.warmed_up |= lap.warm_up;
        if let Some(value) = lap.value(measure(lap, evidence)) {
            series.laps.push((&lap.name, value));
        }
    }
    all.sort_by_key(|series| (series.workload, series.session, series.settings));
    all
}

/// Returns what laps are tested by; nothing that a lap has where it is not about its time and reads nothing.
fn measure<'a>(lap: &'a LapHead, evidence: &Evidence<'_>) -> &'a str {
    match evidence.untimed.contains(&lap.workload) {
        true => lap.readings.first().map_or("", |reading| reading.name.as_str()),
        false => TIME,
    }
}
