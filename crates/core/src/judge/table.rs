//! A table: one measure of a workload, its laps summed up cell by cell and not yet judged.

use super::ask::Ask;
use super::assumption::Assumptions;
use super::cell::{Allowances, Cell};
use super::count::Counts;
use super::difference::{Difference, Ground, across_rigs, within_session};
use super::plain::{Plain, by_difference};
use super::unlike_work::{costs, unlike_work};
use super::verdict::Refusal;
use super::view::{Against, Row};
use crate::both::of_many;
use crate::estimate::LapSpread;
use crate::frame::{self, UNCAPPED_RATE};
use crate::lab::{CellBeside, LapSeries, Unlike};
use crate::record::{Better, LapHead, Measure, SessionName, Settings, TIME};
use std::collections::BTreeMap;

/// The laps of one workload, by rig and variant.
type Cells<'a> = BTreeMap<(&'a str, &'a Settings), Vec<LapSeries<'a, LapHead>>>;

/// One measure of a workload, summed up.
#[derive(Clone, Debug)]
pub struct Table<'a> {
    /// The workload's name.
    pub workload: &'a str,
    /// The measure.
    pub measure: Measure,
    /// The form of its task that is compared.
    pub task: u32,
    /// Whether it is work, which an index weighs: temperatures and watts are none, and of a lap's parts those that count are in
    /// its time already.
    pub is_work: bool,
    /// Its cells, each as a row that stands alone so far, by rig and variant.
    pub rows: Vec<Row>,
    cells: Cells<'a>,
    /// How far laps differ within a session, by all cells and what the lab states.
    pub(super) spread: Option<LapSpread>,
    /// Whether what is not comparable is compared anyway.
    despite: bool,
    /// The session whose day each session shares, where it is another.
    days: BTreeMap<SessionName, SessionName>,
}

/// Units of what is no work: temperatures, and what a machine takes or does beside it.
const NO_WORK: [&str; 10] = ["°C", "°F", "K", "W", "kW", "J", "kJ", "Wh", "V", "rpm"];

impl<'a> Table<'a> {
    pub(super) fn new(
        workload: &'a str,
        measure: Measure,
        task: u32,
        all: &[LapSeries<'a, LapHead>],
        ask: &Ask,
    ) -> Self {
        let mut cells: Cells = BTreeMap::new();
        for series in all {
            let (_, rig, settings) = series.cell();
            cells.entry((rig, settings)).or_default().push(series.clone());
        }
        let shows_cap = frame::is_measure(&measure.name) && measure.name != UNCAPPED_RATE;
        // Only the whole time of a lap is that of its work.
        let works = ask.works.get(workload).filter(|_| measure.name == TIME);
        let cells_in_order: Vec<_> = cells.iter().collect();
        let row = |((rig, settings), all): &(&(&str, &Settings), &Vec<LapSeries<'_, LapHead>>)| {
            let (cell, plain) = summed(all, (&measure.name, task), ask, &|_| true);
            let key = (workload.to_owned(), (*rig).to_owned(), (*settings).clone());
            let CellBeside { columns, limited } = ask.beside.get(&key).cloned().unwrap_or_default();
            Row {
                rig: (*rig).to_owned(),
                settings: (*settings).clone(),
                counts: Counts::of(all, &measure.name, task, ask),
                cell,
                plain,
                rate: None,
                against: Against::Alone,
                places: None,
                unsupported: None,
                columns,
                limited,
                capped: shows_cap && ask.capped.contains(&key),
                work: works.and_then(|works| works.of(settings)).map(|work| work.value),
                traits: ask.traits.get(&key).cloned().unwrap_or_default(),
                differs: Vec::new(),
            }
        };
        let rows = of_many(&cells_in_order, row);
        let despite = ask.despite;
        let apart = |(session, day): &(&SessionName, &SessionName)| session != day;
        let days = ask.days.iter().filter(apart).map(|(s, d)| (s.clone(), d.clone())).collect();
        let is_part = ask.parts.contains(&(workload.to_owned(), measure.name.clone()));
        // What is asked for by name is weighed as it is asked, but for temperatures: no ratio of two of them means anything.
        let asked = ask.measures.contains(&measure.name) && !measure.unit.starts_with('°');
        let is_work = !is_part && (asked || !NO_WORK.contains(&measure.unit.as_str()));
        Self { workload, measure, task, is_work, rows, cells, spread: None, despite, days }
    }

    /// Returns the row of `settings` on `rig`.
    pub fn row(&self, rig: &str, settings: &Settings) -> Option<&Row> {
        // They lie by rig and variant, as the cells that they were made of.
        let key = |row: &Row| row.rig.as_str().cmp(rig).then_with(|| row.settings.cmp(settings));
        self.rows.binary_search_by(key).ok().map(|place| &self.rows[place])
    }

    /// Returns how many verdicts share a chance of error with that of `row` against `base`: those of the rigs of its variant,
    /// or of the variants of its rig.
    pub(crate) fn family(&self, base: &Row, row: &Row) -> u32 {
        let beside = |other: &&Row| match base.rig == row.rig {
            true => other.rig == row.rig,
            false => other.settings == row.settings,
        };
        let judged = self.rows.iter().filter(beside).filter(|other| other.has_values()).count();
        shared_by(judged)
    }

    /// Returns `row` held against `base`.
    ///
    /// Variants of one rig pair the laps of the same rounds, where there are any; otherwise they were
    /// run in different sessions, and are judged as different rigs are.
    pub fn difference(&self, base: &Row, row: &Row, assume: &Assumptions) -> Difference {
        self.difference_of(base, row, assume, &|_| true)
    }

    /// Returns `row` held against `base` likewise, both of the laps that `keep` keeps.
    pub(super) fn difference_of(
        &self,
        base: &Row,
        row: &Row,
        assume: &Assumptions,
        keep: &dyn Fn(&LapHead) -> bool,
    ) -> Difference {
        if !(base.has_values() && row.has_values()) {
            return nothing(row.counts.refusal());
        }
        if !self.despite && !differences(base, row).is_empty() {
            return nothing(Refusal::NotComparable);
        }
        let better = self.measure.better;
        let (Some(base_cell), Some(cell)) = (&base.cell, &row.cell) else {
            let sides = base.on_scale().zip(row.on_scale());
            return sides.map_or_else(
                || nothing(row.counts.refusal()),
                |(base, row)| by_difference(&base, &row, better, assume),
            );
        };
        let pairs = if base.rig == row.rig { self.pairs_of(base, row, keep) } else { Vec::new() };
        let said = if pairs.is_empty() {
            let (base_cell, cell) = costs((base, base_cell), (row, cell), better);
            across_rigs(&base_cell, &cell, assume)
        } else {
            let allowances: Allowances = base_cell.allowances().with(cell.allowances());
            within_session(&pairs, allowances, &base_cell.between(), self.spread, assume)
        };
        Difference { by_rate: unlike_work(base, row).is_some(), ..said }
    }

    /// Returns the values of both in the rounds that have both, session by session; of them less is better.
    pub(super) fn pairs(&self, base: &Row, row: &Row) -> Vec<Vec<(f64, f64)>> {
        self.pairs_of(base, row, &|_| true)
    }

    fn pairs_of(
        &self,
        base: &Row,
        row: &Row,
        keep: &dyn Fn(&LapHead) -> bool,
    ) -> Vec<Vec<(f64, f64)>> {
        let cost = |value: f64| match self.measure.better {
            Better::Less => value,
            Better::More => value.recip(),
        };
        let by_round = |row: &Row| -> BTreeMap<(&SessionName, u32), f64> {
            self.cells
                .get(&(row.rig.as_str(), &row.settings))
                .into_iter()
                .flatten()
                .filter(|series| series.task == self.task)
                .flat_map(|series| series.laps.iter().map(|lap| (series.session, lap)))
                .filter(|(_, lap)| keep(lap))
                .filter_map(|(session, lap)| {
                    Some(((session, lap.round), cost(lap.value(&self.measure.name)?)))
                })
                .collect()
        };
        let (theirs, ours) = (by_round(base), by_round(row));
        let (their_work, our_work) = unlike_work(base, row).unwrap_or((1.0, 1.0));
        let mut sessions: BTreeMap<&SessionName, Vec<(f64, f64)>> = BTreeMap::new();
        for (round, &base) in &theirs {
            if let Some(&ours) = ours.get(round) {
                let day = self.days.get(round.0).unwrap_or(round.0);
                sessions.entry(day).or_default().push((base / their_work, ours / our_work));
            }
        }
        sessions.into_values().collect()
    }
}

impl<'a> Table<'a> {
    /// Returns the laps of a row's cell, series by series.
    pub(super) fn laps_of<'s>(&'s self, row: &'s Row) -> &'s [LapSeries<'s, LapHead>] {
        self.cells.get(&(row.rig.as_str(), &row.settings)).map_or(&[], Vec::as_slice)
    }

    /// Returns a row as it would be of the laps that `keep` keeps.
    pub(super) fn row_of(&self, row: &Row, ask: &Ask, keep: &dyn Fn(&LapHead) -> bool) -> Row {
        let between = row.cell.as_ref().map(Cell::between).unwrap_or_default();
        let of = (self.measure.name.as_str(), self.task);
        let (cell, plain) = summed(self.laps_of(row), of, ask, keep);
        let cell = cell.map(|cell| cell.with_between(between).with_assumed(self.spread));
        let plain = plain.map(|plain| plain.with_between(between));
        Row { cell, plain, ..row.clone() }
    }
}

/// Returns the counted values of a cell, of the laps that `keep` keeps, or its values on their own scale where one of them
/// has no logarithm.
fn summed(
    all: &[LapSeries<'_, LapHead>],
    (measure, task): (&str, u32),
    ask: &Ask,
    keep: &dyn Fn(&LapHead) -> bool,
) -> (Option<Cell>, Option<Plain>) {
    let mut sessions: BTreeMap<&SessionName, Vec<f64>> = BTreeMap::new();
    let (mut step, mut looked) = (0.0f64, false);
    for series in all.iter().filter(|series| series.task == task) {
        let kept = series.laps.iter().filter(|lap| keep(lap));
        let values = kept.filter_map(|lap| Some((lap.value(measure)?, lap.step_of(measure))));
        let mut values = values.peekable();
        if values.peek().is_none() {
            continue;
        }
        looked |= ask.looked.contains(series.session);
        let day = sessions.entry(ask.day(series.session)).or_default();
        for (value, read_in) in values {
            day.push(value);
            step = step.max(read_in.unwrap_or(0.0));
        }
    }
    let has_log = |value: &f64| value.is_finite() && *value > 0.0;
    if !sessions.values().flatten().all(has_log) {
        let finite = sessions.values().flatten().all(|value| value.is_finite());
        let plain = Plain::of(sessions.into_values().collect()).filter(|_| finite);
        return (None, plain.map(|plain| plain.read_in_steps(step, looked)));
    }
    let named = sessions.into_iter().map(|(name, laps)| (name.clone(), laps));
    let Ok(cell) = Cell::from_named(named.collect()) else { return (None, None) };
    let cell = if looked { cell.looked_at() } else { cell };
    (Some(if step > 0.0 { cell.read_in_steps(step) } else { cell }), None)
}

/// Returns in what `row` differs from `base`, where both are of the same variant: variants are meant to
/// differ.
pub(super) fn differences(base: &Row, row: &Row) -> Vec<Unlike> {
    match base.settings == row.settings {
        true => base.traits.differences(&row.traits),
        false => Vec::new(),
    }
}

/// Returns how many verdicts share a chance of error where so many cells are held against one of them (Bonferroni).
pub(super) fn shared_by(cells: usize) -> u32 {
    u32::try_from(cells.saturating_sub(1)).unwrap_or(u32::MAX).max(1)
}

/// Returns a difference of which nothing can be said.
pub(super) fn nothing(why: Refusal) -> Difference {
    Difference::refused(why, Ground::ThisSessionOnly, None)
}
