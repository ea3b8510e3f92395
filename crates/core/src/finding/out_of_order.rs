//! *Out of order*: a load failed below one that held, and the edge does not explain it.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::capacity::{SearchLap, Searched, out_of_order};

/// Returns what searches raise in which a load failed below one that held.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let one = |search: &Searched<'_>| {
        let (last, _) = search.laps.last()?;
        let rule = search.rule;
        let tried: Vec<SearchLap> = search.laps.iter().map(|(_, tried)| *tried).collect();
        let (low, high) = out_of_order(&tried, rule.steps())?;
        let failed = search.laps.iter().filter(|(_, tried)| tried.at == low && !tried.held());
        let rig = &last.name.session.rig;
        Some(Raised {
            workload: last.workload.clone(),
            // A search stands at its last lap; that is the one that figures are made of.
            laps: vec![last.name.clone()],
            doubt: Doubt::OutOfOrder {
                rig: rig.clone(),
                failed: rule.text(low),
                in_laps: failed.map(|(lap, _)| lap.name.clone()).collect(),
                held: rule.text(high),
            },
            remedy: Remedy::again(rig),
        })
    };
    evidence.searches.iter().filter_map(one).collect()
}
