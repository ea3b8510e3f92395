//! *Does not fit*: a number that was typed in lies far from what its rig's and its workload's other numbers say.

use super::doubt::Doubt;
use super::evidence::{Evidence, cell_name, rigs_beside};
use super::meant::{EXPLAINS, Meant, meant};
use super::raised::{Raised, Remedy};
use super::shared::Tests;
use super::typed::{self, CellOf, Counted};
use crate::judge::CellName;
use crate::record::Better;
use crate::stat::{Additive, Expected, Spot};
use std::collections::BTreeMap;

/// Rigs without which nothing is usual.
const LEAST_RIGS: usize = 5;
/// Values that are looked at closely: those that lie farthest off when all are taken together.
const LOOKED_AT: usize = 12;
/// Values of one lab that are named, one after another.
const MOST_NAMED: usize = 6;
/// A value is named, so that others are looked at without it, where one in so many would lie that far off.
const ALPHA: f64 = 0.01;
/// Units of what says nothing of how fast a rig is.
const NOT_OF_SPEED: [&str; 6] = ["°C", "W", "J", "Wh", "V", "%"];

/// A table of what rigs came to: logs, of which less is better.
struct Table<'a> {
    spots: Vec<Spot>,
    cells: Vec<Of<'a>>,
}

/// What a spot of the table is of.
struct Of<'a> {
    rig: &'a str,
    of: CellName,
    /// Its laps, where people typed them.
    typed: Option<&'a [Counted<'a>]>,
    /// Its typical value.
    value: f64,
    better: Better,
}

/// What does not fit: one value, or two of one column that were exchanged.
#[derive(Clone, Copy, Debug)]
struct Suspect {
    one: usize,
    other: Option<usize>,
    p: f64,
    expected: Expected,
}

/// Tests every typed value, and every two of a column, against what the others say.
pub(super) fn test(evidence: &Evidence<'_>) -> Tests {
    let mut tests = Tests::default();
    let cells = typed::cells(evidence);
    if cells.is_empty() {
        return tests;
    }
    let table = table(evidence, &cells);
    let mut out: Vec<usize> = Vec::new();
    for _ in 0..MOST_NAMED {
        let Some(worst) = worst(&table, &out) else { break };
        let named = worst.p < ALPHA;
        let told = (named).then(|| raised(&table, &worst)).flatten();
        tests.made(worst.p, told);
        out.extend([worst.one].into_iter().chain(worst.other));
        if !named {
            break;
        }
    }
    tests
}

fn table<'a>(
    evidence: &'a Evidence<'_>,
    typed: &'a BTreeMap<CellOf<'a>, Vec<Counted<'a>>>,
) -> Table<'a> {
    let (mut spots, mut cells) = (Vec::new(), Vec::new());
    let mut rigs: BTreeMap<&str, usize> = BTreeMap::new();
    let mut column = 0;
    for view in evidence.views {
        if !view.is_work || NOT_OF_SPEED.contains(&view.measure.unit.as_str()) {
            continue;
        }
        for (settings, rows) in rigs_beside(view) {
            let with = rows.iter().filter_map(|row| Some((row, row.cell.as_ref()?)));
            let with: Vec<_> = with.collect();
            if with.len() < LEAST_RIGS {
                continue;
            }
            for (row, cell) in with {
                let next = rigs.len();
                let place = *rigs.entry(&row.rig).or_insert(next);
                let log = cell.typical().ln();
                let value = if view.measure.better == Better::More { -log } else { log };
                spots.push(Spot { row: place, column, value });
                let key = (
                    view.workload.as_str(),
                    settings,
                    row.rig.as_str(),
                    view.measure.name.as_str(),
                );
                let typed = typed.get(&key).map(Vec::as_slice);
                cells.push(Of {
                    rig: &row.rig,
                    of: cell_name(view, settings),
                    typed: typed.filter(|laps| laps.iter().any(|lap| lap.step.is_some())),
                    value: cell.typical(),
                    better: view.measure.better,
                });
            }
            column += 1;
        }
    }
    Table { spots, cells }
}

/// Returns what lies farthest off, with its p among all that could have been said; values of `out` are taken as not there.
fn worst(table: &Table<'_>, out: &[usize]) -> Option<Suspect> {
    let spots = &table.spots;
    let all = Additive::of(spots, &|at| out.contains(&at))?;
    let of_typed = |at: &usize| table.cells[*at].typed.is_some() && !out.contains(at);
    let typed: Vec<usize> = (0..spots.len()).filter(of_typed).collect();
    let (singles, pairs) = (typed.len() as f64, pairs_of(spots, &typed));
    // Those that lie farthest off, each in the spread of its own column.
    let far = |at: usize| {
        let spot = spots[at];
        let expected = all.expected(spot.row, spot.column);
        expected.map_or(0.0, |e| (spot.value - e.value).abs() / e.variance.sqrt())
    };
    let mut far: Vec<(f64, usize)> = typed.into_iter().map(|at| (far(at), at)).collect();
    far.sort_by(|a, b| b.0.total_cmp(&a.0));
    let typed: Vec<usize> = far.into_iter().take(LOOKED_AT).map(|(_, at)| at).collect();
    let expected = |at: usize, pair: Option<usize>| {
        let left = |other: usize| other == at || Some(other) == pair || out.contains(&other);
        let fit = Additive::of(spots, &left)?;
        fit.expected(spots[at].row, spots[at].column).filter(|e| e.variance > 0.0)
    };
    let mut found: Vec<Suspect> = Vec::new();
    for (place, &one) in typed.iter().enumerate() {
        if let Some(expected) = expected(one, None) {
            let p = expected.p(spots[one].value).ok()? * singles;
            found.push(Suspect { one, other: None, p, expected });
        }
        for &other in &typed[place + 1..] {
            found.extend(exchanged_rows(spots, one, other, pairs, &expected));
        }
    }
    let least =
        found.into_iter().reduce(|least, other| if other.p < least.p { other } else { least });
    least.map(|suspect| Suspect { p: suspect.p.min(1.0), ..suspect })
}

/// Returns how many pairs of one column there are.
fn pairs_of(spots: &[Spot], typed: &[usize]) -> f64 {
    let mut columns: BTreeMap<usize, f64> = BTreeMap::new();
    typed.iter().for_each(|&at| *columns.entry(spots[at].column).or_default() += 1.0);
    columns.into_values().map(|n| n * (n - 1.0) / 2.0).sum()
}

/// Returns two values of a column as suspects where each fits in the place of the other.
///
/// ```text
/// t = (dᵢ − dⱼ) / √(2·variance)        d: how far each lies off what it should be without both
/// ```
fn exchanged_rows(
    spots: &[Spot],
    one: usize,
    other: usize,
    pairs: f64,
    expected: &dyn Fn(usize, Option<usize>) -> Option<Expected>,
) -> Option<Suspect> {
    let (a, b) = (spots[one], spots[other]);
    if a.column != b.column {
        return None;
    }
    let (ours, theirs) = (expected(one, Some(other))?, expected(other, Some(one))?);
    let sd = ours.variance.sqrt();
    let fits = |value: f64, place: &Expected| (value - place.value).abs() < EXPLAINS * sd;
    if !(fits(b.value, &ours) && fits(a.value, &theirs)) {
        return None;
    }
    let off = (a.value - ours.value) - (b.value - theirs.value);
    let apart = Expected { value: 0.0, variance: 2.0 * ours.variance, ..ours };
    Some(Suspect { one, other: Some(other), p: apart.p(off).ok()? * pairs, expected: ours })
}

fn raised(table: &Table<'_>, suspect: &Suspect) -> Option<Raised> {
    let of = &table.cells[suspect.one];
    let fits = |log: f64| if of.better == Better::More { (-log).exp() } else { log.exp() };
    let meant = match suspect.other {
        Some(other) => {
            let other = &table.cells[other];
            Some(Meant::OfRig { rig: other.rig.to_owned(), value: other.value })
        }
        None => meant(of.value, fits(suspect.expected.value), suspect.expected.variance.sqrt()),
    };
    // One column says how far rigs differ, and no rig how it stands to the others.
    let alone = table.spots.iter().all(|spot| spot.column == table.spots[suspect.one].column);
    if alone && meant.is_none() {
        return None;
    }
    let mut laps = typed::names(of.typed.unwrap_or_default());
    if let Some(other) = suspect.other {
        laps.extend(typed::names(table.cells[other].typed.unwrap_or_default()));
    }
    Some(Raised {
        workload: of.of.workload.clone(),
        laps,
        doubt: Doubt::DoesNotFit {
            rig: of.rig.to_owned(),
            of: of.of.clone(),
            value: of.value,
            fits: fits(suspect.expected.value),
            meant,
        },
        remedy: Remedy::Reenter,
    })
}
