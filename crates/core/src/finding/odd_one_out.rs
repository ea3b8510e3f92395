//! *Odd one out*: one workload decides which side of the index a rig is on, against the others.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::judge::{Overall, OverallRow, Weighing, overall};
use std::collections::BTreeSet;

/// Returns what every rig raises whose index comes out on the other side of the baseline without one workload of at
/// least three, and surely so by the margin.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let study = evidence.study;
    let workloads: BTreeSet<&str> =
        evidence.views.iter().map(|view| view.workload.as_str()).collect();
    if workloads.len() < 3 {
        return Vec::new();
    }
    let weights = study.workloads.iter().map(|w| (w.name.clone(), w.weight)).collect();
    let order = study.baseline.iter().cloned().chain(study.rigs.iter().map(|rig| rig.name.clone()));
    let weighing = Weighing {
        weights,
        rig_order: order.collect(),
        assume: *evidence.assume,
        only: BTreeSet::new(),
    };
    let Overall { rows, entered, .. } = overall(evidence.views, &weighing);
    let entered: BTreeSet<&str> = entered.iter().map(|entry| entry.of.workload.as_str()).collect();
    if entered.len() < 3 {
        return Vec::new();
    }
    let baseline = rows.iter().find(|row| row.against.is_none()).map(|row| row.rig.clone());
    let baseline = baseline.unwrap_or_default();
    let raised = |row: &OverallRow| {
        let (index, moved) = (row.against?.speed?, row.moved.first()?);
        let beyond = |ratio: f64| ratio.ln().abs() > evidence.assume.margin.ln_1p();
        let turned = index.ln().signum() != moved.without.ln().signum();
        (turned && beyond(index) && beyond(moved.without)).then(|| Raised {
            workload: moved.workload.clone(),
            laps: Vec::new(),
            doubt: Doubt::OddOneOut {
                rig: row.rig.clone(),
                baseline: baseline.clone(),
                index,
                without: moved.without,
            },
            remedy: Remedy::CompareOtherwise,
        })
    };
    rows.iter().filter_map(raised).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn lab(last: f64) -> Lab {
        let tasks = ["build", "orbit", "reel", "still"];
        let heron = tasks.map(|task| (task, 1000.0));
        let mut wren = tasks.map(|task| (task, 1100.0));
        wren[3].1 = last;
        Lab::default().day("heron-1", 2, &heron).day("wren-1", 1, &wren).judged()
    }

    #[test]
    fn a_workload_that_turns_the_index_round_is_told() {
        // ln(1/1.1)·3/4 + ln(1000/400)/4 = 0.158: 17 % ahead; without it 10 % behind.
        let found = lab(400.0).found(find);
        assert_eq!(found.len(), 1);
        let Doubt::OddOneOut { index, without, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((index - 1.17).abs() < 5e-3 && (without - 1.0 / 1.1).abs() < 5e-3, "{found:?}");
        assert_eq!((found[0].workload.as_str(), lab(900.0).found(find).len()), ("still", 0));
        assert_eq!(lab(1100.0).found(find), []);
    }
}
