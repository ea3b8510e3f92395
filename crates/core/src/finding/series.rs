//! Tests that are made of each series of laps by itself: of its counted values, in the order run.

use super::parts::SeriesName;
use super::raised::Raised;
use super::shared::Tests;
use crate::both::in_halves;
use crate::lab::{Lap, LapSeries, Run};
use crate::record::{LapName, Settings, TIME};
use crate::stat::{Scatter, logs, sorted};
use std::collections::{BTreeSet, HashMap};

/// A series of laps, and what it is tested by.
pub(super) struct Series<'a> {
    of: &'a LapSeries,
    /// The measure that its values are of.
    pub(super) measure: &'a str,
    /// Whether warm-up laps were run ahead of it.
    pub(super) warmed_up: bool,
}

type Cell<'a> = (&'a str, u32, &'a str, &'a Settings);

impl<'a> Series<'a> {
    pub(super) fn workload(&self) -> &'a str {
        &self.of.workload
    }

    pub(super) fn rig(&self) -> &'a str {
        &self.of.session.rig
    }

    pub(super) fn settings(&self) -> &'a Settings {
        &self.of.settings
    }

    /// Returns what the series is of.
    pub(super) fn name(&self) -> SeriesName {
        let LapSeries { session, settings, .. } = self.of;
        SeriesName { session: session.clone(), settings: settings.clone() }
    }

    /// Returns the laps that its values are of.
    pub(super) fn laps(&self) -> impl Iterator<Item = Lap<'_>> {
        self.of.laps().filter(|lap| lap.yields().value(self.measure).is_some())
    }

    /// Returns their names.
    pub(super) fn names(&self) -> impl Iterator<Item = LapName> {
        self.laps().map(|lap| lap.name())
    }

    /// Returns how many values it has.
    pub(super) fn len(&self) -> usize {
        let has_value = |run: &Run<'_>| run.yields().value(self.measure).is_some();
        self.of.runs().filter(has_value).map(|run| run.len()).sum()
    }

    /// Returns the cell that it is of.
    fn cell(&self) -> Cell<'a> {
        (self.workload(), self.of.task, self.rig(), self.settings())
    }

    /// Returns the logs of its values; of values without logs there is nothing to test.
    fn logs(&self) -> Vec<f64> {
        logs(&self.of.values(self.measure)).unwrap_or_default()
    }
}

/// Returns every series of `all`: of times, or of the first reading where a workload is not
/// about its time.
pub(super) fn series<'a>(all: &[&'a LapSeries], untimed: &BTreeSet<String>) -> Vec<Series<'a>> {
    let of = |&of: &&'a LapSeries| {
        let warmed_up = of.runs().any(|run| run.alike.warm_up);
        Series { of, measure: measure(of, untimed), warmed_up }
    };
    let mut all: Vec<Series<'a>> = all.iter().map(of).collect();
    all.sort_by_key(|series| (series.workload(), &series.of.session, series.settings()));
    all
}

/// Returns what the laps of a series are tested by; nothing that a lap has where it is not about its time and reads nothing.
fn measure<'a>(series: &'a LapSeries, untimed: &BTreeSet<String>) -> &'a str {
    let first = || series.runs().find_map(|run| run.alike.read().first());
    match untimed.contains(&series.workload) {
        true => first().map_or("", |reading| reading.name.as_str()),
        false => TIME,
    }
}

/// The values of a series, while it is tested.
pub(super) struct Seen<'a> {
    pub(super) series: &'a Series<'a>,
    pub(super) values: Vec<f64>,
    /// Their logs; none where one of them has none.
    pub(super) logs: Vec<f64>,
    /// The same, the least first.
    pub(super) sorted: Vec<f64>,
}

impl<'a> Seen<'a> {
    fn of(series: &'a Series<'a>) -> Self {
        let values = series.of.values(series.measure);
        let logs = logs(&values).unwrap_or_default();
        let sorted = sorted(&logs);
        Self { series, values, logs, sorted }
    }
}

/// The scatter of the laps of a cell, all sessions together: sessions differ, and the spread of laps within one is much the
/// same in each.
#[derive(Clone, Copy)]
pub(super) struct Pooled {
    cell: Scatter,
    /// What of it the series at hand is.
    pub(super) own: Scatter,
}

impl Pooled {
    /// Returns it with `own` in place of what the series at hand is of it.
    pub(super) fn with(self, own: Scatter) -> Scatter {
        self.cell.without(self.own).plus(own)
    }
}

/// A test that is made of each series.
pub(super) struct SeriesTest {
    /// What of a series' logs is pooled over its cell.
    pub(super) scatter: fn(&[f64]) -> Scatter,
    /// What a series shows, with the chance of that where nothing is wrong with it.
    pub(super) one: fn(&Seen<'_>, Pooled) -> Told,
}

/// The p of a test and what it says where that is small enough; none of a series that is not tested.
pub(super) type Told = Option<(f64, Option<Raised>)>;

/// Returns what each of `tests` comes to for `all` series.
pub(super) fn tested(all: &[Series<'_>], tests: &[&SeriesTest]) -> Vec<Tests> {
    let scatters = in_halves(all, |series| {
        let logs = series.logs();
        tests.iter().map(|test| (test.scatter)(&logs)).collect::<Vec<Scatter>>()
    });
    let mut cells: HashMap<Cell<'_>, Vec<Scatter>> = HashMap::new();
    for (series, own) in all.iter().zip(&scatters) {
        let nothing = || vec![Scatter::default(); tests.len()];
        let sums = cells.entry(series.cell()).or_insert_with(nothing);
        sums.iter_mut().zip(own).for_each(|(sum, own)| *sum = sum.plus(*own));
    }
    let all: Vec<(&Series<'_>, Vec<Scatter>)> = all.iter().zip(scatters).collect();
    let found = in_halves(&all, |(series, own)| {
        let (seen, cell) = (Seen::of(series), &cells[&series.cell()]);
        let pooled = cell.iter().zip(own).map(|(&cell, &own)| Pooled { cell, own });
        tests.iter().zip(pooled).map(|(test, pooled)| (test.one)(&seen, pooled)).collect::<Vec<_>>()
    });
    let mut made: Vec<Tests> = tests.iter().map(|_| Tests::default()).collect();
    for of_series in found {
        for (tests, found) in made.iter_mut().zip(of_series) {
            if let Some((p, raised)) = found {
                tests.made(p, raised);
            }
        }
    }
    made
}
