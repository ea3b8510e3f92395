//! A table: one measure of a workload, its laps summed up cell by cell and not yet judged.

use super::ask::Ask;
use super::assumption::Assumptions;
use super::cell::{Allowances, Cell};
use super::count::Counts;
use super::difference::{Difference, Ground, across_rigs, within_session};
use super::lap_set::LapSet;
use super::plain::{Plain, by_difference};
use super::unlike_work::{costs, unlike_work};
use super::verdict::Refusal;
use super::view::{Against, Row};
use crate::both::of_many;
use crate::estimate::LapSpread;
use crate::frame::{self, UNCAPPED_RATE};
use crate::lab::{CellBeside, Lap, LapSeries, Unlike};
use crate::record::{Better, Measure, SessionName, Settings, TIME};
use std::collections::BTreeMap;

/// The laps of one workload, by rig and variant.
type Cells<'a> = BTreeMap<(&'a str, &'a Settings), Vec<&'a LapSeries>>;

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
        all: &[&'a LapSeries],
        ask: &Ask,
    ) -> Self {
        let mut cells: Cells = BTreeMap::new();
        for &series in all {
            let (_, rig, settings) = series.cell();
            cells.entry((rig, settings)).or_default().push(series);
        }
        let shows_cap = frame::is_measure(&measure.name) && measure.name != UNCAPPED_RATE;
        // Only the whole time of a lap is that of its work.
        let works = ask.works.get(workload).filter(|_| measure.name == TIME);
        let cells_in_order: Vec<_> = cells.iter().collect();
        let row = |((rig, settings), all): &(&(&str, &Settings), &Vec<&LapSeries>)| {
            let (cell, plain) = summed(all, (&measure.name, task), ask, None);
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
        self.difference_of(base, row, assume, None)
    }

    /// Returns `row` held against `base` likewise, both without the laps of `but`.
    pub(super) fn difference_of(
        &self,
        base: &Row,
        row: &Row,
        assume: &Assumptions,
        but: Option<&LapSet<'_>>,
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
        let pairs = if base.rig == row.rig { self.pairs_of(base, row, but) } else { Vec::new() };
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
        self.pairs_of(base, row, None)
    }

    fn pairs_of(&self, base: &Row, row: &Row, but: Option<&LapSet<'_>>) -> Vec<Vec<(f64, f64)>> {
        let (theirs, ours) = (self.by_session(base), self.by_session(row));
        let (their_work, our_work) = unlike_work(base, row).unwrap_or((1.0, 1.0));
        let mut days: BTreeMap<&SessionName, Vec<(f64, f64)>> = BTreeMap::new();
        for (session, theirs) in theirs {
            let Some(ours) = ours.get(session) else { continue };
            let mut pairs = Vec::new();
            let mut ours = self.by_round(ours, but).into_iter().peekable();
            for (round, base) in self.by_round(&theirs, but) {
                while ours.next_if(|(other, _)| *other < round).is_some() {}
                if let Some((_, own)) = ours.next_if(|(other, _)| *other == round) {
                    pairs.push((base / their_work, own / our_work));
                }
            }
            if !pairs.is_empty() {
                let day = self.days.get(session).unwrap_or(session);
                days.entry(day).or_default().extend(pairs);
            }
        }
        days.into_values().collect()
    }

    /// Returns the series of a row's cell that are compared, session by session.
    fn by_session<'s>(&'s self, row: &'s Row) -> BTreeMap<&'s SessionName, Vec<&'s LapSeries>> {
        let mut sessions: BTreeMap<&SessionName, Vec<&LapSeries>> = BTreeMap::new();
        for &series in self.laps_of(row).iter().filter(|series| series.task == self.task) {
            sessions.entry(&series.session).or_default().push(series);
        }
        sessions
    }

    /// Returns the value of each round of series of one session, of which less is better; of a round with several laps that
    /// of the last.
    fn by_round(&self, all: &[&LapSeries], but: Option<&LapSet<'_>>) -> Vec<(u32, f64)> {
        let mut rounds: Vec<(u32, f64)> = Vec::new();
        for series in all {
            match but.filter(|but| but.is_of(&series.session)) {
                None => series
                    .runs()
                    .for_each(|run| run.add_values_by_round(&self.measure.name, &mut rounds)),
                Some(but) => {
                    let kept = series.laps().filter(|lap| !but.has(lap));
                    let value =
                        |lap: Lap<'_>| Some((lap.round, lap.yields().value(&self.measure.name)?));
                    rounds.extend(kept.filter_map(value));
                }
            }
        }
        if self.measure.better == Better::More {
            rounds.iter_mut().for_each(|(_, value)| *value = value.recip());
        }
        rounds.sort_by_key(|(round, _)| *round);
        rounds.dedup_by(|later, earlier| {
            let same = later.0 == earlier.0;
            if same {
                earlier.1 = later.1;
            }
            same
        });
        rounds
    }
}

impl<'a> Table<'a> {
    /// Returns the laps of a row's cell, series by series.
    pub(super) fn laps_of<'s>(&'s self, row: &'s Row) -> &'s [&'s LapSeries] {
        self.cells.get(&(row.rig.as_str(), &row.settings)).map_or(&[], Vec::as_slice)
    }

    /// Returns a row as it would be without the laps of `but`.
    pub(super) fn row_without(&self, row: &Row, ask: &Ask, but: &LapSet<'_>) -> Row {
        let between = row.cell.as_ref().map(Cell::between).unwrap_or_default();
        let of = (self.measure.name.as_str(), self.task);
        let (cell, plain) = summed(self.laps_of(row), of, ask, Some(but));
        let cell = cell.map(|cell| cell.with_between(between).with_assumed(self.spread));
        let plain = plain.map(|plain| plain.with_between(between));
        Row { cell, plain, ..row.clone() }
    }
}

/// So many values of a cell are looked up in the laps where they are asked for, and not kept beside them.
const MANY_VALUES: usize = 1_000;

/// Returns the counted values of a cell without the laps of `but`, or its values on their own scale where one of them has no
/// logarithm.
fn summed(
    all: &[&LapSeries],
    (measure, task): (&str, u32),
    ask: &Ask,
    but: Option<&LapSet<'_>>,
) -> (Option<Cell>, Option<Plain>) {
    let mut days: BTreeMap<&SessionName, (Vec<f64>, Vec<&LapSeries>)> = BTreeMap::new();
    let (mut step, mut looked) = (0.0f64, false);
    for series in all.iter().filter(|series| series.task == task) {
        let mut any = false;
        let (day, of) = days.entry(ask.day(&series.session)).or_default();
        for run in series.runs().filter(|run| run.yields().value(measure).is_some()) {
            let before = day.len();
            match but.filter(|but| but.is_of(&series.session)) {
                None => run.add_values(measure, day),
                Some(but) => {
                    let kept = run.laps().filter(|lap| !but.has(lap));
                    day.extend(kept.filter_map(|lap| lap.yields().value(measure)));
                }
            }
            if day.len() > before {
                any = true;
                step = step.max(run.yields().step_of(measure).unwrap_or(0.0));
            }
        }
        looked |= any && ask.looked.contains(&series.session);
        of.push(series);
    }
    days.retain(|_, (values, _)| !values.is_empty());
    let mut series: Vec<Vec<&LapSeries>> = Vec::new();
    let mut sessions: BTreeMap<&SessionName, Vec<f64>> = BTreeMap::new();
    for (day, (values, of)) in days {
        sessions.insert(day, values);
        series.push(of);
    }
    let has_log = |value: &f64| value.is_finite() && *value > 0.0;
    if !sessions.values().flatten().all(has_log) {
        let finite = sessions.values().flatten().all(|value| value.is_finite());
        let plain = Plain::of(sessions.into_values().collect()).filter(|_| finite);
        return (None, plain.map(|plain| plain.read_in_steps(step, looked)));
    }
    let named = sessions.into_iter().map(|(name, laps)| (name.clone(), laps));
    let Ok(cell) = Cell::from_named(named.collect()) else { return (None, None) };
    let looked_up = but.is_none() && cell.laps() >= MANY_VALUES;
    let cell = if looked_up { cell.of_laps(&series, measure) } else { cell };
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
