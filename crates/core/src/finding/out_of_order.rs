//! *Out of order*: a load failed below one that held, and the edge does not explain it.

use super::{Doubt, Evidence, again};
use crate::capacity::{Tried, out_of_order};

pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let one = |search: &crate::capacity::Searched<'_>| {
        let (last, _) = search.laps.last()?;
        let rule = search.rule;
        let tried: Vec<Tried> = search.laps.iter().map(|(_, tried)| *tried).collect();
        let (low, high) = out_of_order(&tried, rule.steps())?;
        let failed = search.laps.iter().filter(|(_, tried)| tried.at == low && !tried.held());
        let rig = &last.name.session.rig;
        Some(Doubt {
            name: "out of order",
            workload: last.workload.clone(),
            // A search stands at its last lap; that is the one that figures are made of.
            laps: vec![last.name.clone()],
            evidence: format!(
                "{rig} failed at {} (lap {}) and held at {}, which luck does not explain",
                rule.text(low),
                failed.map(|(lap, _)| lap.name.to_string()).collect::<Vec<_>>().join(", "),
                rule.text(high)
            ),
            settle: format!("look at that lap: lap show; then {}", again(rig, &last.workload)),
            false_alarms: None,
        })
    };
    evidence.searches.iter().filter_map(one).collect()
}
