//! From laps to groups of judged rows.

use super::ask::{Ask, Direction};
use super::assumption::Assumptions;
use super::cell::{Allowances, Cell};
use super::count::Counts;
use super::plain::Plain;
use super::rank::{RankedApart, ranks, told_apart};
use super::table::{Table, differences, nothing, shared_by};
use super::tabulate::tables;
use super::unlike_work::each_work;
use super::verdict::{Refusal, Verdict};
use super::view::{Against, Group, HeldConstant, Row, WorkloadView};
use crate::both::{MANY, in_halves, of_many};
use crate::capacity::CAPACITY;
use crate::estimate::{Side, difference};
use crate::lab::{Laps, Traits};
use crate::record::{Better, Settings};
use std::cmp::Ordering;
use std::collections::{BTreeSet, HashMap};

/// Returns every workload of `laps` compared, by name.
pub fn compare(laps: impl Into<Laps>, ask: &Ask) -> Vec<WorkloadView> {
    views(&tables(&laps.into(), ask), ask, &Assumptions::of(ask.margin))
}

/// Returns `tables` judged.
///
/// A rig that has laps of anything has a row wherever other rigs have one: a blank says nothing.
pub fn views(tables: &[Table<'_>], ask: &Ask, assume: &Assumptions) -> Vec<WorkloadView> {
    let rigs: BTreeSet<&str> =
        tables.iter().flat_map(|table| &table.rows).map(|row| row.rig.as_str()).collect();
    in_halves(tables, |table: &Table<'_>| judged(table, &rigs, ask, assume))
}

fn judged(
    table: &Table<'_>,
    all_rigs: &BTreeSet<&str>,
    ask: &Ask,
    assume: &Assumptions,
) -> WorkloadView {
    let rigs = distinct(table, |row| row.rig.clone());
    let variants = distinct(table, |row| row.settings.clone());
    let asked = |direction| ask.directions.contains(&direction);
    let unasked = ask.directions.is_empty();
    let mut groups = Vec::new();
    // A lone cell still gets a table, which says that there is nothing to compare with.
    let alone = all_rigs.len() < 2 && variants.len() < 2;
    if asked(Direction::Rigs) || unasked && (all_rigs.len() > 1 || alone) {
        let variants = in_variant_order(table, variants.clone(), ask);
        groups = of_many(&variants, |settings| rigs_at(table, settings, all_rigs, ask, assume));
    }
    if (asked(Direction::Variants) || unasked) && variants.len() > 1 {
        groups.push(variants_on_rigs(table, rigs, variants, ask, assume));
    }
    let (workload, task) = (table.workload.to_owned(), table.task);
    let measure = table.measure.clone();
    let steps = ask.steps.get(&workload).filter(|_| measure.name == CAPACITY);
    let steps = steps.cloned().unwrap_or_default();
    WorkloadView { workload, measure, task, is_work: table.is_work, steps, groups }
}

fn distinct<T: Ord>(table: &Table<'_>, of: impl Fn(&Row) -> T) -> Vec<T> {
    let mut all: Vec<T> = table.rows.iter().map(of).collect();
    all.sort();
    all.dedup();
    all
}

fn in_variant_order(table: &Table<'_>, mut variants: Vec<Settings>, ask: &Ask) -> Vec<Settings> {
    let known = ask.variant_order.get(table.workload).map_or(&[][..], Vec::as_slice);
    let places: HashMap<&Settings, usize> = known.iter().zip(0..).collect();
    let place = |settings: &Settings| places.get(settings).copied().unwrap_or(known.len());
    variants.sort_by(|a, b| place(a).cmp(&place(b)).then_with(|| a.cmp(b)));
    variants
}

fn rigs_at(
    table: &Table<'_>,
    settings: &Settings,
    all_rigs: &BTreeSet<&str>,
    ask: &Ask,
    assume: &Assumptions,
) -> Group {
    let row = |rig: &&str| {
        let known = table.row(rig, settings).cloned();
        let mut cannot = ask.unsupported.get(*rig).into_iter().flatten();
        let unsupported = cannot.find(|one| one.is_about(table.workload, settings));
        let unsupported = unsupported.map(|one| one.why.clone());
        Row { unsupported, ..known.unwrap_or_else(|| never(rig, settings)) }
    };
    let mut rows: Vec<Row> = all_rigs.iter().map(row).collect();
    let base = rows
        .iter()
        .filter(|row| row.has_values())
        .min_by_key(|row| (place(&ask.rig_order, &row.rig), row.rig.clone()))
        .cloned();
    let several = rows.len() > 1;
    let among = among(&rows, assume);
    for row in &mut rows {
        row.against = match &base {
            _ if !several => Against::Alone,
            _ if row.unsupported.is_some() => Against::Other(nothing(Refusal::Unsupported)),
            Some(base) if base.rig == row.rig => Against::Baseline,
            Some(base) => {
                row.differs = differences(base, row);
                Against::Other(table.difference(base, row, &among))
            }
            None => Against::Other(nothing(row.counts.refusal())),
        };
    }
    best_first(&mut rows, table.measure.better);
    let ties = give_places(&mut rows, table.measure.better);
    Group { held: HeldConstant::Variant(settings.clone()), rows, ties }
}

fn variants_on_rigs(
    table: &Table<'_>,
    mut rigs: Vec<String>,
    variants: Vec<Settings>,
    ask: &Ask,
    assume: &Assumptions,
) -> Group {
    rigs.sort_by_key(|rig| place(&ask.rig_order, rig));
    let variants = in_variant_order(table, variants, ask);
    let of_rig = |rig: &String| {
        let mut rows: Vec<Row> =
            variants.iter().filter_map(|settings| table.row(rig, settings)).cloned().collect();
        let base = rows.iter().find(|row| row.has_values()).cloned();
        let several = rows.len() > 1;
        let among = among(&rows, assume);
        for row in &mut rows {
            row.against = match &base {
                _ if !several => Against::Alone,
                None => Against::Other(nothing(row.counts.refusal())),
                Some(base) if base.settings == row.settings => Against::Baseline,
                Some(base) => Against::Other(table.difference(base, row, &among)),
            };
        }
        best_first(&mut rows, table.measure.better);
        rows
    };
    let mut rows: Vec<Row> = match variants.len() < MANY {
        true => rigs.iter().flat_map(of_rig).collect(),
        false => in_halves(&rigs, of_rig).into_iter().flatten().collect(),
    };
    let ties = rank_variants(&mut rows, table.measure.better);
    Group { held: HeldConstant::Rigs, rows, ties }
}

/// Returns what verdicts take for granted that hold each of `rows` against one of them.
fn among(rows: &[Row], assume: &Assumptions) -> Assumptions {
    let judged = rows.iter().filter(|row| row.has_values()).count();
    Assumptions { family: shared_by(judged), ..*assume }
}

/// Returns the row of a rig that never ran a variant.
fn never(rig: &str, settings: &Settings) -> Row {
    Row {
        rig: rig.to_owned(),
        settings: settings.clone(),
        counts: Counts::default(),
        cell: None,
        plain: None,
        rate: None,
        against: Against::Alone,
        places: None,
        unsupported: None,
        columns: Vec::new(),
        limited: None,
        capped: false,
        work: None,
        traits: Traits::default(),
        differs: Vec::new(),
    }
}

const NOT_COMPARABLE: Verdict = Verdict::Refused(Refusal::NotComparable);

/// Variants that are ranked: of more, every two of which are held against each other, hardly any are told apart.
const MOST_RANKED: usize = 64;

/// Ranks the variants of each rig among themselves; returns the runs of rows that cannot be told apart.
fn rank_variants(rows: &mut [Row], better: Better) -> Vec<(usize, usize)> {
    let (mut runs, mut from) = (Vec::new(), 0);
    for rows in rows.chunk_by_mut(|a, b| a.rig == b.rig) {
        let ranked = if rows.len() <= MOST_RANKED { give_places(rows, better) } else { Vec::new() };
        let own = ranked.into_iter();
        runs.extend(own.map(|(first, last)| (first + from, last + from)));
        from += rows.len();
    }
    runs
}

/// Gives a place to every row that has enough laps for a verdict, where there are two of them; returns the
/// runs of rows that cannot be told apart.
fn give_places(rows: &mut [Row], better: Better) -> Vec<(usize, usize)> {
    let mut contenders: Vec<Cell> = Vec::new();
    let mut at = Vec::new();
    let mut looked = false;
    let of_each = each_work(rows);
    for (place, row) in rows.iter().enumerate() {
        let Some(cell) = &row.cell else { continue };
        // What is not comparable has no place among the others.
        if matches!(&row.against, Against::Other(d) if d.verdict == NOT_COMPARABLE) {
            continue;
        }
        if !cell.is_enough() {
            continue;
        }
        looked |= cell.allowances().looked;
        contenders.push(cell.as_cost(better).for_each_of(of_each(row)));
        at.push(place);
    }
    if at.len() < 2 {
        return Vec::new();
    }
    let sides: Vec<Side<'_>> = contenders.iter().map(Cell::side).collect();
    let mut pairs = Vec::new();
    for (place, first) in sides.iter().enumerate() {
        for second in &sides[place + 1..] {
            let Ok(ratio) = difference(first, second) else { return Vec::new() };
            pairs.push(ratio);
        }
    }
    let alpha = Allowances { looked, ..Allowances::default() }.alpha();
    let Ok(mut apart) = told_apart(at.len(), &pairs, alpha) else { return Vec::new() };
    // A table's verdicts share their chance of error in another way: a rank never says more than they do.
    let is_base = |row: &Row| row.against == Against::Baseline;
    let told = |row: &Row| matches!(&row.against, Against::Other(d) if d.verdict.names_a_winner());
    let verdict = |a: usize, b: usize| {
        let (a, b) = (&rows[at[a]], &rows[at[b]]);
        match (is_base(a), is_base(b)) {
            (true, _) => Some(told(b)),
            (_, true) => Some(told(a)),
            _ => None,
        }
    };
    apart.retain(|pair| verdict(pair.ahead, pair.behind) != Some(false));
    let joined = ties(&at, &apart, |a, b| verdict(a, b) == Some(true));
    for (&place, found) in at.iter().zip(ranks(at.len(), &apart)) {
        rows[place].places = Some(found);
    }
    joined
}

/// Returns the longest runs of neighbouring rows of which no two are told apart, by ranks or verdicts.
///
/// `at` holds the row of each that was ranked; a row between them that was not ends a run.
fn ties(
    at: &[usize],
    apart: &[RankedApart],
    judged_apart: impl Fn(usize, usize) -> bool,
) -> Vec<(usize, usize)> {
    let ranked: BTreeSet<(usize, usize)> = apart
        .iter()
        .map(|pair| (pair.ahead.min(pair.behind), pair.ahead.max(pair.behind)))
        .collect();
    let apart = |a: usize, b: usize| ranked.contains(&(a, b)) || judged_apart(a, b);
    let mut runs: Vec<(usize, usize)> = Vec::new();
    for first in 0..at.len() {
        let joins = |&last: &usize| {
            at[last] == at[first] + last - first && (first..last).all(|other| !apart(other, last))
        };
        let last = (first + 1..at.len()).take_while(joins).last().unwrap_or(first);
        let inside = runs.last().is_some_and(|known| known.1 >= at[last]);
        if last > first && !inside {
            runs.push((at[first], at[last]));
        }
    }
    runs
}

fn place<T: PartialEq>(order: &[T], item: &T) -> usize {
    order.iter().position(|known| known == item).unwrap_or(order.len())
}

fn best_first(rows: &mut [Row], better: Better) {
    let typical = |row: &Row| match (&row.cell, &row.plain) {
        (Some(cell), _) => Some(cell.typical()),
        (None, plain) => plain.as_ref().map(Plain::mean),
    };
    let of_each = each_work(rows);
    let key = |row: &Row| match (typical(row), better) {
        (None, _) => f64::INFINITY,
        (Some(typical), Better::Less) => typical / of_each(row),
        (Some(typical), Better::More) => -typical,
    };
    // Worked out once a row, and of rows only the places are moved about meanwhile.
    rows.sort_by_cached_key(|row| (Total(key(row)), row.rig.clone()));
}

/// A number in the order of all numbers.
#[derive(PartialEq)]
struct Total(f64);

impl Eq for Total {}

impl PartialOrd for Total {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Total {
    fn cmp(&self, other: &Self) -> Ordering {
        self.0.total_cmp(&other.0)
    }
}

#[cfg(test)]
#[path = "compare_tests.rs"]
mod tests;
