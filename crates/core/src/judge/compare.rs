//! From laps to groups of judged rows.

use super::cell::{Basis, Care, Cell};
use super::count::Counts;
use super::difference::{Difference, Ground, across_rigs, within_session};
use super::rank::{Contender, ranking};
use super::spread::{Assumptions, SessionSpread, session_spread};
use super::verdict::{LEAST_LAPS, Refusal};
use super::view::{Against, Group, Held, Row, WorkloadView};
use crate::frame;
use crate::lap::LapHead;
use crate::measure::{Better, Measure, TIME};
use crate::session::SessionName;
use crate::variant::Settings;
use std::collections::{BTreeMap, BTreeSet};

/// Which way a comparison looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Direction {
    /// Rigs against each other.
    Rigs,
    /// Variants against each other, each rig for itself.
    Variants,
}

/// What is asked of the laps.
#[derive(Clone, Debug, Default)]
pub struct Ask {
    /// Rigs in the order in which they serve as baseline; those not named follow by name.
    pub rig_order: Vec<String>,
    /// Variants in the study's order, by workload; those not named follow by text.
    pub variant_order: BTreeMap<String, Vec<Settings>>,
    /// The form of each workload's task that is compared; without an entry, the latest.
    pub tasks: BTreeMap<String, u32>,
    /// Which ways to look; empty means every way in which there is something to compare.
    pub directions: Vec<Direction>,
    /// How close counts as the same, as a fraction.
    pub margin: f64,
    /// Workloads that are not about their time.
    pub untimed: BTreeSet<String>,
    /// The measures that are compared; empty means all.
    pub measures: Vec<String>,
    /// Sessions that ended when their laps looked precise enough.
    pub looked: BTreeSet<SessionName>,
}

/// The laps of one workload, by rig and variant.
type Cells<'a> = BTreeMap<(&'a str, &'a Settings), Vec<&'a LapHead>>;

/// Returns every workload of `laps` compared, by name, and the spread between sessions assumed.
pub fn compare(laps: &[LapHead], ask: &Ask) -> (Vec<WorkloadView>, SessionSpread) {
    let mut workloads: BTreeMap<&str, Vec<&LapHead>> = BTreeMap::new();
    for lap in laps {
        workloads.entry(&lap.workload).or_default().push(lap);
    }
    let mut drafts: Vec<Draft> = Vec::new();
    for (workload, laps) in &workloads {
        let latest = laps.iter().map(|lap| lap.task).max().unwrap_or_default();
        let task = ask.tasks.get(*workload).copied().unwrap_or(latest);
        let measures = measures(workload, laps, task, ask);
        drafts.extend(measures.into_iter().map(|m| Draft::new(workload, m, task, laps, ask)));
    }
    let cells =
        drafts.iter().flat_map(|draft| draft.rows.iter()).filter_map(|row| row.cell.as_ref());
    let spread = session_spread(cells);
    let assume = Assumptions { margin: ask.margin, session_spread: spread };
    (drafts.into_iter().map(|draft| draft.judged(ask, &assume)).collect(), spread)
}

/// Returns the measures of a workload that are compared: its time first, where it is about that.
fn measures(workload: &str, laps: &[&LapHead], task: u32, ask: &Ask) -> Vec<Measure> {
    let read = laps.iter().filter(|lap| lap.task == task).flat_map(|lap| &lap.readings);
    let mut all: Vec<Measure> = Vec::new();
    for measure in read.filter(|reading| !reading.reports_time).map(|r| r.measure()) {
        if !all.iter().any(|known| known.name == measure.name) {
            all.push(measure);
        }
    }
    let asked = |name: &str| ask.measures.iter().any(|asked| asked == name);
    // A workload without a single score still gets a table, which says why there is none.
    if !ask.untimed.contains(workload) || asked(TIME) || all.is_empty() {
        all.insert(0, Measure::time());
    }
    // Of the many measures of a pass, two are compared unless others are asked for.
    let minor = |name: &str| frame::is_measure(name) && !frame::HEADLINES.contains(&name);
    all.retain(|measure| match ask.measures.is_empty() {
        true => !minor(&measure.name),
        false => asked(&measure.name),
    });
    all
}

/// One measure of a workload with its cells summed up and not yet judged.
struct Draft<'a> {
    workload: &'a str,
    measure: Measure,
    task: u32,
    cells: Cells<'a>,
    rows: Vec<Row>,
}

impl<'a> Draft<'a> {
    fn new(
        workload: &'a str,
        measure: Measure,
        task: u32,
        laps: &[&'a LapHead],
        ask: &Ask,
    ) -> Self {
        let mut cells: Cells = BTreeMap::new();
        for lap in laps {
            cells.entry((&lap.name.session.rig, &lap.settings)).or_default().push(lap);
        }
        let rows = cells
            .iter()
            .map(|((rig, settings), laps)| Row {
                rig: (*rig).to_owned(),
                settings: (*settings).clone(),
                counts: Counts::of(laps, &measure.name, task),
                cell: cell_of(laps, &measure.name, task, ask),
                against: Against::Alone,
                places: None,
            })
            .collect();
        Self { workload, measure, task, cells, rows }
    }

    fn judged(self, ask: &Ask, assume: &Assumptions) -> WorkloadView {
        let rigs = self.distinct(|row| row.rig.clone());
        let variants = self.distinct(|row| row.settings.clone());
        let asked = |direction| ask.directions.contains(&direction);
        let unasked = ask.directions.is_empty();
        let mut groups = Vec::new();
        // A lone cell still gets a table, which says that there is nothing beside it.
        let alone = rigs.len() < 2 && variants.len() < 2;
        if asked(Direction::Rigs) || unasked && (rigs.len() > 1 || alone) {
            for settings in self.in_variant_order(variants.clone(), ask) {
                groups.push(self.rigs_at(&settings, ask, assume));
            }
        }
        if (asked(Direction::Variants) || unasked) && variants.len() > 1 {
            groups.push(self.variants_on_rigs(rigs, variants, ask, assume));
        }
        let (workload, task) = (self.workload.to_owned(), self.task);
        WorkloadView { workload, measure: self.measure, task, groups }
    }

    fn better(&self) -> Better {
        self.measure.better
    }

    fn distinct<T: Ord>(&self, of: impl Fn(&Row) -> T) -> Vec<T> {
        let mut all: Vec<T> = self.rows.iter().map(of).collect();
        all.sort();
        all.dedup();
        all
    }

    fn in_variant_order(&self, mut variants: Vec<Settings>, ask: &Ask) -> Vec<Settings> {
        let known = ask.variant_order.get(self.workload).map_or(&[][..], Vec::as_slice);
        variants.sort_by_cached_key(|settings| (place(known, settings), settings.clone()));
        variants
    }

    fn rigs_at(&self, settings: &Settings, ask: &Ask, assume: &Assumptions) -> Group {
        let mut rows: Vec<Row> =
            self.rows.iter().filter(|row| row.settings == *settings).cloned().collect();
        let base = rows
            .iter()
            .filter(|row| row.cell.is_some())
            .min_by_key(|row| (place(&ask.rig_order, &row.rig), row.rig.clone()))
            .map(|row| (row.rig.clone(), row.cell.clone()));
        let several = rows.len() > 1;
        for row in &mut rows {
            row.against = match (&base, &row.cell) {
                _ if !several => Against::Alone,
                (Some((rig, _)), _) if *rig == row.rig => Against::Baseline,
                (Some((_, Some(base))), Some(cell)) => {
                    let (base, cell) = (base.as_cost(self.better()), cell.as_cost(self.better()));
                    Against::Other(across_rigs(&base, &cell, assume))
                }
                _ => Against::Other(nothing(row.counts.refusal())),
            };
        }
        give_places(&mut rows, self.better(), assume);
        best_first(&mut rows, self.better());
        Group { held: Held::Variant(settings.clone()), rows }
    }

    fn variants_on_rigs(
        &self,
        mut rigs: Vec<String>,
        variants: Vec<Settings>,
        ask: &Ask,
        assume: &Assumptions,
    ) -> Group {
        rigs.sort_by_key(|rig| place(&ask.rig_order, rig));
        let variants = self.in_variant_order(variants, ask);
        let mut all = Vec::new();
        for rig in rigs {
            let mut rows: Vec<Row> = variants
                .iter()
                .filter_map(|v| self.rows.iter().find(|r| r.rig == rig && r.settings == *v))
                .cloned()
                .collect();
            let base = rows.iter().find(|row| row.cell.is_some()).cloned();
            let several = rows.len() > 1;
            for row in &mut rows {
                row.against = match &base {
                    _ if !several => Against::Alone,
                    None => Against::Other(nothing(row.counts.refusal())),
                    Some(base) if base.settings == row.settings => Against::Baseline,
                    Some(base) => Against::Other(self.variant_difference(base, row, assume)),
                };
            }
            best_first(&mut rows, self.better());
            all.append(&mut rows);
        }
        Group { held: Held::Rigs, rows: all }
    }

    /// Pairs laps of the same rounds where there are any; otherwise the variants were driven in
    /// different sittings, and are judged as different rigs would be.
    fn variant_difference(&self, base: &Row, row: &Row, assume: &Assumptions) -> Difference {
        let (Some(base_cell), Some(cell)) = (&base.cell, &row.cell) else {
            return nothing(row.counts.refusal());
        };
        let cost = |value: f64| match self.better() {
            Better::Less => value,
            Better::More => value.recip(),
        };
        let by_round = |row: &Row| -> BTreeMap<(&SessionName, u32), f64> {
            self.cells
                .get(&(row.rig.as_str(), &row.settings))
                .into_iter()
                .flatten()
                .filter(|lap| lap.task == self.task)
                .filter_map(|lap| {
                    Some(((&lap.name.session, lap.round), cost(lap.value(&self.measure.name)?)))
                })
                .collect()
        };
        let (theirs, ours) = (by_round(base), by_round(row));
        let pairs: Vec<(f64, f64)> = theirs
            .iter()
            .filter_map(|(round, &base)| ours.get(round).map(|&ours| (base, ours)))
            .collect();
        if pairs.is_empty() {
            let better = self.better();
            across_rigs(&base_cell.as_cost(better), &cell.as_cost(better), assume)
        } else {
            let care: Care = base_cell.care().with(cell.care());
            within_session(&pairs, care, assume)
        }
    }
}

fn cell_of(laps: &[&LapHead], measure: &str, task: u32, ask: &Ask) -> Option<Cell> {
    let mut sessions: BTreeMap<&SessionName, Vec<f64>> = BTreeMap::new();
    let mut step = 0.0f64;
    for lap in laps.iter().filter(|lap| lap.task == task) {
        if let Some(value) = lap.value(measure) {
            sessions.entry(&lap.name.session).or_default().push(value);
            step = step.max(lap.step_of(measure).unwrap_or(0.0));
        }
    }
    let looked = sessions.keys().any(|&session| ask.looked.contains(session));
    let named = sessions.into_iter().map(|(name, laps)| (name.clone(), laps));
    let cell = Cell::from_named(named.collect()).ok()?;
    let cell = if looked { cell.looked_at() } else { cell };
    Some(if step > 0.0 { cell.read_in_steps(step) } else { cell })
}

/// Gives a place to every row that has enough laps for a verdict, where there are two of them.
fn give_places(rows: &mut [Row], better: Better, assume: &Assumptions) {
    let mut contenders = Vec::new();
    let mut at = Vec::new();
    let mut looked = false;
    for (place, row) in rows.iter().enumerate() {
        let Some(cell) = &row.cell else { continue };
        let one_day = cell.basis() == Basis::Laps;
        if one_day && cell.laps() < LEAST_LAPS {
            continue;
        }
        let tau = if one_day { assume.session_spread.value() } else { 0.0 };
        let luck = tau.powi(2) + cell.care().reading.powi(2);
        looked |= cell.care().looked;
        contenders.push(Contender { values: cell.as_cost(better).values(), luck });
        at.push(place);
    }
    let alpha = Care { looked, ..Care::default() }.alpha();
    if let (true, Ok(ranking)) = (at.len() > 1, ranking(&contenders, alpha)) {
        for (place, found) in at.into_iter().zip(ranking.places) {
            rows[place].places = Some(found);
        }
    }
}

fn nothing(why: Refusal) -> Difference {
    Difference::refused(why, Ground::ThisSessionOnly, None)
}

fn place<T: PartialEq>(order: &[T], item: &T) -> usize {
    order.iter().position(|known| known == item).unwrap_or(order.len())
}

fn best_first(rows: &mut [Row], better: Better) {
    let key = |row: &Row| match (&row.cell, better) {
        (None, _) => f64::INFINITY,
        (Some(cell), Better::Less) => cell.typical(),
        (Some(cell), Better::More) => -cell.typical(),
    };
    rows.sort_by(|a, b| key(a).total_cmp(&key(b)).then_with(|| a.rig.cmp(&b.rig)));
}

#[cfg(test)]
#[path = "compare_tests.rs"]
mod tests;
