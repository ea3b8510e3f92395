//! The counted values of one cell in one session, in the order run: what tests of laps run on.

use super::parts::SeriesName;
use crate::lab::LapSeries;
use crate::record::{LapName, SessionName, Settings, TIME};
use crate::stat::{Scatter, logs};
use std::collections::{BTreeSet, HashMap};

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
    /// The logs of its values; of values without logs there is nothing to test.
    pub(super) logs: Vec<f64>,
}

impl Series<'_> {
    pub(super) fn values(&self) -> Vec<f64> {
        self.laps.iter().map(|(_, value)| *value).collect()
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
            *sum = sum.plus(of(&series.logs));
        }
        Self(cells)
    }

    /// Returns that of a series' cell, in which the series itself counts as `own` and not as `counted`.
    pub(super) fn with(&self, series: &Series<'_>, counted: Scatter, own: Scatter) -> Scatter {
        let cell = self.0.get(&series.cell()).copied().unwrap_or_default();
        cell.without(counted).plus(own)
    }
}

/// Returns every series of `all`: of times, or of the first reading where a workload is not
/// about its time.
pub(super) fn series<'a>(all: &'a [LapSeries<'_>], untimed: &BTreeSet<String>) -> Vec<Series<'a>> {
    let of = |series: &'a LapSeries<'_>| {
        let LapSeries { workload, task, session, settings, .. } = *series;
        let measure = measure(series, untimed);
        let laps = series.laps.iter().filter_map(|lap| Some((&lap.name, lap.value(measure)?)));
        let laps: Vec<(&LapName, f64)> = laps.collect();
        let values: Vec<f64> = laps.iter().map(|(_, value)| *value).collect();
        let logs = logs(&values).unwrap_or_default();
        let warmed_up = series.laps.iter().any(|lap| lap.warm_up);
        Series { workload, task, session, settings, measure, warmed_up, laps, logs }
    };
    let mut all: Vec<Series<'a>> = all.iter().map(of).collect();
    all.sort_by_key(|series| (series.workload, series.session, series.settings));
    all
}

/// Returns what the laps of a series are tested by; nothing that a lap has where it is not about its time and reads nothing.
fn measure<'a>(series: &'a LapSeries<'_>, untimed: &BTreeSet<String>) -> &'a str {
    let first = || series.laps.iter().find_map(|lap| lap.readings.first());
    match untimed.contains(series.workload) {
        true => first().map_or("", |reading| reading.name.as_str()),
        false => TIME,
    }
}
