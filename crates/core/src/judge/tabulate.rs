//! From laps to tables: which measures of which workloads, and how far days differ in each.

use super::ask::Ask;
use super::between::between_by_measure;
use super::rate::Rate;
use super::table::Table;
use crate::both::in_halves;
use crate::endurance;
use crate::estimate::LapSpread;
use crate::frame::{self, UNCAPPED_RATE};
use crate::lab::{LapSeries, Laps};
use crate::record::{Measure, TIME};
use std::collections::BTreeMap;

/// Returns a table for every compared measure of every workload of `laps`, by name.
pub fn tables<'a>(laps: &'a Laps, ask: &Ask) -> Vec<Table<'a>> {
    let mut workloads: BTreeMap<&str, Vec<&LapSeries>> = BTreeMap::new();
    for series in laps.series() {
        workloads.entry(&series.workload).or_default().push(series);
    }
    let of_workload = |(workload, series): &(&'a str, Vec<&'a LapSeries>)| {
        let latest = series.iter().map(|one| one.task).max().unwrap_or_default();
        let task = ask.tasks.get(*workload).copied().unwrap_or(latest);
        let measures = measures(workload, series, task, ask).into_iter();
        measures.map(|m| Table::new(workload, m, task, series, ask)).collect::<Vec<_>>()
    };
    let workloads: Vec<_> = workloads.into_iter().collect();
    let mut all: Vec<Table<'a>> =
        in_halves(&workloads, of_workload).into_iter().flatten().collect();
    keep_spread(&mut all, ask);
    keep_between(&mut all, ask);
    all
}

/// Tells every cell of too few laps how far those of the other cells differ.
fn keep_spread(all: &mut [Table<'_>], ask: &Ask) {
    for table in all {
        let stated = ask.stated_spread.get(table.workload).copied();
        let cells = table.rows.iter().filter_map(|row| Some(row.cell.as_ref()?.lap_squares()));
        table.spread = LapSpread::of(cells, stated);
        for row in &mut table.rows {
            row.cell = row.cell.take().map(|cell| cell.with_assumed(table.spread));
        }
    }
}

/// Tells every cell how far days differ in its measure: as the laps show, or as is known of more of them.
fn keep_between(all: &mut [Table<'_>], ask: &Ask) {
    let shown = between_by_measure(all);
    for table in all {
        let name = &table.measure.name;
        let known = ask.between.get(name).or_else(|| shown.get(name)).copied().unwrap_or_default();
        let known = known.with_stated(ask.stated_between);
        for row in &mut table.rows {
            row.cell = row.cell.take().map(|cell| cell.with_between(known));
            row.plain = row.plain.take().map(|plain| plain.with_between(known));
            let cell = (row.rig.as_str(), table.workload, &row.settings);
            row.rate = row.cell.as_ref().and_then(|c| Rate::of(cell, &table.measure, c, ask));
        }
    }
}

/// Returns the measures of a workload that are compared: its time first, where it is about that.
fn measures(workload: &str, series: &[&LapSeries], task: u32, ask: &Ask) -> Vec<Measure> {
    let runs = series.iter().filter(|one| one.task == task).flat_map(|one| one.runs());
    let read = runs.flat_map(|run| run.alike.read());
    let mut all: Vec<Measure> = Vec::new();
    for reading in read.filter(|reading| !reading.reports_time) {
        if !all.iter().any(|known| known.name == reading.name) {
            all.push(reading.measure());
        }
    }
    let asked = |name: &str| ask.measures.iter().any(|asked| asked == name);
    // A workload without a single score still gets a table, which says why there is none.
    if !ask.untimed.contains(workload) || asked(TIME) || all.is_empty() {
        all.insert(0, Measure::time());
    }
    let by_work = ask.by_work.contains(workload);
    all.retain(|measure| match ask.measures.is_empty() {
        // Under a cap the rates show the cap, and this shows the rig.
        true if by_work && frame::is_measure(&measure.name) => measure.name == UNCAPPED_RATE,
        true => !is_minor(&measure.name),
        false => asked(&measure.name),
    });
    all
}

/// Returns whether a measure is compared only where it is asked for: of the many of a pass, two are compared, and
/// of an endurance lap what it comes to.
pub fn is_minor(name: &str) -> bool {
    frame::is_minor(name) || endurance::is_minor(name)
}
