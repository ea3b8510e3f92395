//! Overall: several workloads weighed into one figure for each rig.

use super::assumption::Assumptions;
use super::cell::{Allowances, Cell};
use super::cell_name::CellName;
use super::difference::{Difference, Ground, judged};
use super::index::{Entered, Missing, Moved, NoIndex, Overall, OverallRow, Weighing};
use super::table::shared_by;
use super::view::{HeldConstant, WorkloadView};
use crate::estimate::{BetweenSessions, CONTRADICTS, ENOUGH_SESSIONS, Estimate};
use crate::record::{Better, SessionName};
use crate::stat::{f_upper_tail, mean, standard_deviation};
use std::collections::BTreeMap;

struct Entry<'a> {
    workload: &'a str,
    name: CellName,
    better: Better,
    cells: BTreeMap<&'a str, &'a Cell>,
}

/// Returns the index of every rig over the workloads of `views`.
///
/// ```text
/// index = exp(Σ shareⱼ·dⱼ), dⱼ = ln(how many times better than the baseline)        Σ share = 1
/// ```
/// A workload's weight is shared equally by its variants and compared measures. Where both rigs have
/// three sessions or more that hold all of it, each session is one value; otherwise the variance is that
/// of the model, in which a session's variation is one that all of its workloads share.
///
/// * Shape: what a rig has no verdict in is missing for all; of nothing, or of one rig, no rows.
/// * Source: the geometric mean of ratios, Fleming and Wallace (1986), <https://doi.org/10.1145/5666.5673>.
/// * Units: none (ratios).
pub fn overall(views: &[WorkloadView], weighing: &Weighing) -> Overall {
    among(views, weighing, &[])
}

/// Returns `views` without what some rig lacks or what shows a cap on one, and what both are: then every two rigs are
/// weighed over the same.
pub fn in_common(
    mut views: Vec<WorkloadView>,
    weighing: &Weighing,
) -> (Vec<WorkloadView>, [Vec<Missing>; 2]) {
    let Overall { missing, capped, .. } = overall(&views, weighing);
    for view in &mut views {
        let (workload, measure) = (view.workload.clone(), view.measure.name.clone());
        view.groups.retain(|group| match &group.held {
            HeldConstant::Variant(settings) => {
                let name = CellName::of(&workload, settings, &measure);
                missing.iter().chain(&capped).all(|missing| missing.of != name)
            }
            HeldConstant::Rigs => true,
        });
    }
    (views, [missing, capped])
}

/// Returns how `rig` stands to `base` over the workloads that either of them ran.
///
/// * Errors: what is missing for it.
pub fn between(
    views: &[WorkloadView],
    weighing: &Weighing,
    base: &str,
    rig: &str,
) -> Result<Difference, NoIndex> {
    let weighing = Weighing { rig_order: vec![base.to_owned()], ..weighing.clone() };
    let found = among(views, &weighing, &[base, rig]);
    if let Some(missing) = found.missing.into_iter().next() {
        return Err(NoIndex::Missing(missing));
    }
    let row = found.rows.iter().find(|row| row.rig == rig).and_then(|row| row.against);
    row.ok_or_else(|| NoIndex::NothingInCommon { rig: rig.to_owned(), base: base.to_owned() })
}

/// Returns the index of the rigs `among`, or of all where there are none.
fn among(views: &[WorkloadView], weighing: &Weighing, among: &[&str]) -> Overall {
    let weight = |workload: &str| weighing.weights.get(workload).copied().unwrap_or(1.0);
    let wanted = |view: &&WorkloadView| {
        view.is_work
            && (weighing.only.is_empty() || weighing.only.contains(&view.workload))
            && weight(&view.workload) > 0.0
    };
    let views: Vec<&WorkloadView> = views.iter().filter(wanted).collect();
    let mut rigs: Vec<&str> = match among.is_empty() {
        true => rows(&views).map(|row| row.rig.as_str()).collect(),
        false => among.to_vec(),
    };
    rigs.sort_by_key(|rig| {
        let place = weighing.rig_order.iter().position(|known| known == rig);
        (place.unwrap_or(usize::MAX), *rig)
    });
    rigs.dedup();
    let Sorted { entries, missing, without_ratio, capped } = sorted(&views, &rigs);
    let mut of_workload: BTreeMap<&str, usize> = BTreeMap::new();
    for entry in &entries {
        *of_workload.entry(entry.workload).or_default() += 1;
    }
    let whole: f64 = of_workload.keys().map(|workload| weight(workload)).sum();
    let shares: Vec<f64> = entries
        .iter()
        .map(|entry| weight(entry.workload) / whole / of_workload[entry.workload] as f64)
        .collect();
    let entered = entries
        .iter()
        .zip(&shares)
        .map(|(entry, &share)| Entered { of: entry.name.clone(), share });
    let entered: Vec<Entered> = entered.collect();
    let mut all = Vec::new();
    if let (Some(base), false) = (rigs.first(), entries.is_empty() || rigs.len() < 2) {
        for rig in &rigs {
            let pairs = pairs(&entries, &shares, base, rig);
            let sharing = Assumptions { family: shared_by(rigs.len()), ..weighing.assume };
            let against = (rig != base).then(|| difference(&pairs, &sharing));
            // Of two rigs alone nobody asks what moves their index.
            let moved = if rig != base && among.is_empty() { moved(&pairs) } else { Vec::new() };
            all.push(OverallRow { rig: (*rig).to_owned(), against, moved });
        }
    }
    let ratio = |row: &OverallRow| {
        row.against.as_ref().map_or(1.0, |difference| difference.speed.unwrap_or(0.0))
    };
    all.sort_by(|a, b| ratio(b).total_cmp(&ratio(a)));
    Overall { entered, missing, without_ratio, capped, rows: all }
}

/// Returns the rows in which rigs stand against each other.
fn rows<'a>(views: &[&'a WorkloadView]) -> impl Iterator<Item = &'a super::view::Row> {
    let groups = views.iter().flat_map(|view| &view.groups);
    let rigs = groups.filter(|group| matches!(group.held, HeldConstant::Variant(_)));
    rigs.flat_map(|group| &group.rows).collect::<Vec<_>>().into_iter()
}

/// What could be weighed: what all rigs have, what some lack, what has no ratio, and what shows a cap on some.
#[derive(Default)]
struct Sorted<'a> {
    entries: Vec<Entry<'a>>,
    missing: Vec<Missing>,
    without_ratio: Vec<CellName>,
    capped: Vec<Missing>,
}

fn sorted<'a>(views: &[&'a WorkloadView], rigs: &[&str]) -> Sorted<'a> {
    let mut all = Sorted::default();
    for view in views {
        for group in &view.groups {
            let HeldConstant::Variant(settings) = &group.held else { continue };
            let name = CellName::of(&view.workload, settings, &view.measure.name);
            let is_plain =
                |row: &super::view::Row| row.plain.is_some() && rigs.contains(&row.rig.as_str());
            if group.rows.iter().any(is_plain) {
                all.without_ratio.push(name);
                continue;
            }
            let held: Vec<String> = group
                .rows
                .iter()
                .filter(|row| row.capped && rigs.contains(&row.rig.as_str()))
                .map(|row| row.rig.clone())
                .collect();
            if !held.is_empty() {
                all.capped.push(Missing { of: name, rigs: held });
                continue;
            }
            let cells: BTreeMap<&str, &Cell> = group
                .rows
                .iter()
                .filter(|row| comparable(group, row, rigs))
                .filter_map(|row| Some((row.rig.as_str(), row.cell.as_ref()?)))
                .filter(|(_, cell)| cell.is_enough())
                .collect();
            let lack: Vec<String> = rigs
                .iter()
                .filter(|rig| !cells.contains_key(**rig))
                .map(|rig| (*rig).to_owned())
                .collect();
            match lack.is_empty() {
                // What none of them ran is not what tells them apart.
                _ if lack.len() == rigs.len() && !of_these(group, rigs) => {}
                true => all.entries.push(Entry {
                    workload: &view.workload,
                    name,
                    better: view.measure.better,
                    cells,
                }),
                false => all.missing.push(Missing { of: name, rigs: lack }),
            }
        }
    }
    all
}

/// Returns whether any of `rigs` has a lap that counts.
fn of_these(group: &super::view::Group, rigs: &[&str]) -> bool {
    let has = |row: &super::view::Row| row.has_values() && rigs.contains(&row.rig.as_str());
    group.rows.iter().any(has)
}

/// Returns whether `row` may be held against the first of `rigs`.
fn comparable(group: &super::view::Group, row: &super::view::Row, rigs: &[&str]) -> bool {
    let refused = |row: &super::view::Row| !row.differs.is_empty() && row.is_refused();
    let base = rigs.first().and_then(|rig| group.rows.iter().find(|row| row.rig == *rig));
    // With a reason to compare anyway no row is refused for it.
    !group.rows.iter().any(refused)
        || base.is_none_or(|base| base.traits.differences(&row.traits).is_empty())
}

/// An entry of two rigs, in values of which less is better.
struct Pair<'a> {
    workload: &'a str,
    share: f64,
    base: Cell,
    cell: Cell,
}

fn pairs<'a>(entries: &[Entry<'a>], shares: &[f64], base: &str, rig: &str) -> Vec<Pair<'a>> {
    let pair = |(entry, &share): (&Entry<'a>, &f64)| Pair {
        workload: entry.workload,
        share,
        base: entry.cells[base].as_cost(entry.better),
        cell: entry.cells[rig].as_cost(entry.better),
    };
    entries.iter().zip(shares).map(pair).collect()
}

fn difference(pairs: &[Pair<'_>], assume: &Assumptions) -> Difference {
    let sides = [
        pairs.iter().map(|pair| (pair.share, &pair.base)).collect::<Vec<_>>(),
        pairs.iter().map(|pair| (pair.share, &pair.cell)).collect(),
    ];
    let whole = sides.each_ref().map(|side| session_values(side));
    let sessions = whole.iter().map(Vec::len).min().unwrap_or(0);
    let ground = match sessions {
        ..ENOUGH_SESSIONS
            if pairs.iter().any(|p| p.base.assumed().or(p.cell.assumed()).is_some()) =>
        {
            Ground::AssumedSpread
        }
        0 | 1 => Ground::ThisSessionOnly,
        _ => Ground::Sessions(sessions),
    };
    let [base, rig] = [0, 1].map(|at| match sessions >= ENOUGH_SESSIONS {
        true => by_sessions(&whole[at]),
        false => cautious(&whole[at], &sides[at]),
    });
    // All may be off the same way, so shares add up as they are.
    let reading: f64 = pairs
        .iter()
        .map(|pair| pair.share * pair.base.allowances().with(pair.cell.allowances()).reading)
        .sum();
    let looked =
        pairs.iter().any(|pair| pair.base.allowances().with(pair.cell.allowances()).looked);
    let ratio = base.zip(rig).map(|(base, rig)| rig.minus(base).widened(reading.powi(2)));
    let ratio = ratio.ok_or(crate::stat::StatError::Empty);
    judged(ratio, Allowances { reading, looked }, ground, assume)
}

/// Returns the weighed log of a rig by its sessions that hold all of it: their variance over their number.
fn by_sessions(values: &[f64]) -> Option<Estimate> {
    let sessions = values.len() as f64;
    let variance = standard_deviation(values).ok()?.powi(2) / sessions;
    Some(Estimate { log: mean(values).ok()?, variance, degrees: sessions - 1.0 })
}

/// Returns the weighed log of a rig by the model, unless its sessions contradict that: then the wider of both.
fn cautious(values: &[f64], side: &[(f64, &Cell)]) -> Option<Estimate> {
    let model = by_model(side);
    let all = side.iter().all(|(_, cell)| cell.sessions() == values.len());
    let Some(own) = by_sessions(values).filter(|_| all) else { return Some(model) };
    let tail = f_upper_tail(own.variance / model.variance, own.degrees, model.degrees).ok()?;
    Some(if tail < CONTRADICTS { model.wider(own).ok()? } else { model })
}

/// Returns the weighed log of a rig by the model: what a session does to all of its workloads is counted once.
///
/// ```text
/// variance = Σₛ (Σⱼ wⱼ·τⱼ/Kⱼ over the entries j that session s holds)² + Σⱼ wⱼ²·(lap variance of j)
/// ```
/// * Units: none (logs). Degrees: the fewest of the τ; of laps their own; by Satterthwaite.
fn by_model(side: &[(f64, &Cell)]) -> Estimate {
    let mut days: BTreeMap<(&str, u32), f64> = BTreeMap::new();
    let mut unnamed = 0.0;
    let (mut log, mut laps) = (0.0, Vec::new());
    for &(share, cell) in side {
        log += share * cell.mean_log();
        let each = share * cell.between().sd() / cell.sessions() as f64;
        let mut named = 0;
        for (session, ..) in cell.named_logs() {
            *days.entry((&session.rig, session.number)).or_default() += each;
            named += 1;
        }
        // A session whose name is not known is none of the others.
        unnamed += each.powi(2) * (cell.sessions() - named) as f64;
        laps.extend(cell.laps_alone().map(|(variance, df)| (share * share * variance, df)));
    }
    let fewest =
        side.iter().map(|(_, cell)| cell.between().degrees()).fold(f64::INFINITY, f64::min);
    let fewest = if fewest.is_finite() { fewest } else { BetweenSessions::default().degrees() };
    let days = days.values().map(|each| each * each).sum::<f64>() + unnamed;
    Estimate::of_parts(log, std::iter::once((days, fewest)).chain(laps))
}

/// Returns the weighed logs of each session that holds all of a rig's entries.
fn session_values(cells: &[(f64, &Cell)]) -> Vec<f64> {
    let mut sums: BTreeMap<&SessionName, (usize, f64)> = BTreeMap::new();
    for (share, cell) in cells {
        for (session, log, _) in cell.named_logs() {
            let sum = sums.entry(session).or_default();
            *sum = (sum.0 + 1, sum.1 + share * log);
        }
    }
    sums.into_values().filter(|(held, _)| *held == cells.len()).map(|(_, sum)| sum).collect()
}

/// Returns how far each workload moves the index: the one without which it is farthest from what it is
/// first.
fn moved(pairs: &[Pair<'_>]) -> Vec<Moved> {
    // Share and weighed log of each workload.
    let mut parts: BTreeMap<&str, (f64, f64)> = BTreeMap::new();
    for pair in pairs {
        let log = (pair.base.typical() / pair.cell.typical()).ln();
        let part = parts.entry(pair.workload).or_default();
        *part = (part.0 + pair.share, part.1 + pair.share * log);
    }
    if parts.len() < 2 {
        return Vec::new();
    }
    let (whole, sum) = parts.values().fold((0.0, 0.0), |(w, s), (share, log)| (w + share, s + log));
    let all = sum / whole;
    let without = |workload: &str| (sum - parts[workload].1) / (whole - parts[workload].0);
    let doubled = |workload: &str| (sum + parts[workload].1) / (whole + parts[workload].0);
    let far = |workload: &str| (without(workload) - all).abs();
    let mut workloads: Vec<&str> = parts.keys().copied().collect();
    workloads.sort_by(|a, b| far(b).total_cmp(&far(a)));
    let moved = |workload: &str| Moved {
        workload: workload.to_owned(),
        without: without(workload).exp(),
        doubled: doubled(workload).exp(),
    };
    workloads.into_iter().map(moved).collect()
}

#[cfg(test)]
#[path = "overall_tests.rs"]
mod tests;
