//! *Less work*: variants that are held against each other by their time came to different things, so one of them may have
//! done less.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::judge::{Against, HeldConstant, Row};
use crate::lab::{LapSeries, Unlike};
use crate::record::{LapName, Settings, TIME};
use std::collections::BTreeMap;

/// What a variant came to that its baseline did not: the rigs on which it did, and in what both differ on the first.
struct Other<'a> {
    base: &'a Settings,
    rigs: Vec<String>,
    differs: Vec<Unlike>,
}

/// Returns what every variant raises that is held against another by its time and came to something else. Where it is
/// stated how much work a lap does, rates are held against each other, and there is nothing to raise.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut found = Vec::new();
    for view in evidence.views.iter().filter(|view| view.measure.name == TIME) {
        let groups = view.groups.iter().filter(|group| group.held == HeldConstant::Rigs);
        let mut others: BTreeMap<&Settings, Other<'_>> = BTreeMap::new();
        for rows in groups.flat_map(|group| group.rows.chunk_by(|a, b| a.rig == b.rig)) {
            let Some(base) = rows.iter().find(|row| row.against == Against::Baseline) else {
                continue;
            };
            for row in rows.iter().filter(|row| is_held_by_time(base, row)) {
                let differs = base.traits.other_output(&row.traits);
                if differs.is_empty() {
                    continue;
                }
                let new = || Other { base: &base.settings, rigs: Vec::new(), differs };
                others.entry(&row.settings).or_insert_with(new).rigs.push(row.rig.clone());
            }
        }
        let raised = others.into_iter().map(|(settings, other)| {
            let laps = first_laps(evidence, &view.workload, settings, &other);
            let Other { base, rigs, differs } = other;
            let (settings, against) = (settings.clone(), base.clone());
            let doubt = Doubt::LessWork { rigs, settings, against, differs };
            let remedy = Remedy::CompareOtherwise;
            Raised { workload: view.workload.clone(), laps, doubt, remedy }
        });
        found.extend(raised);
    }
    found
}

fn is_held_by_time(base: &Row, row: &Row) -> bool {
    let stated = base.work.is_some() && row.work.is_some();
    matches!(row.against, Against::Other(_)) && row.has_values() && !stated
}

/// Returns the first counted lap of the variant on each rig.
fn first_laps(
    evidence: &Evidence<'_>,
    workload: &str,
    settings: &Settings,
    other: &Other<'_>,
) -> Vec<LapName> {
    let first = |rig: &String| {
        let of = |one: &LapSeries| one.cell() == (workload, rig.as_str(), settings);
        evidence.names(of).into_iter().next()
    };
    other.rigs.iter().filter_map(first).collect()
}
