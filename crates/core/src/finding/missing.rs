//! *Missing*: a rig has no figure where the others have one.

use super::doubt::Doubt;
use super::evidence::{Evidence, cell_name, rigs_beside};
use super::parts::Lacking;
use super::raised::{Raised, Remedy};
use crate::judge::{Counts, Row};
use crate::record::Outcome;
use std::collections::BTreeSet;

/// Returns what every comparison raises in which a rig that ran something else has no figure, with the reason. What a
/// rig cannot do, by its study, is shown in its row.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut found = Vec::new();
    // Workload, variant and rigs of what was never run at all: it lacks every measure, and is said once.
    let mut told: BTreeSet<(&str, String, Vec<&str>)> = BTreeSet::new();
    for view in evidence.views {
        for (settings, rows) in rigs_beside(view) {
            // What a person saw failing is known: nothing of it is missing.
            let known = |row: &&Row| {
                row.unsupported.is_some() || row.counts.not_done.contains_key(&Outcome::Failed)
            };
            let lacks: Vec<&Row> =
                rows.iter().filter(|row| !row.has_values() && !known(row)).collect();
            if lacks.is_empty() || lacks.len() == rows.len() {
                continue;
            }
            let rigs: Vec<&str> = lacks.iter().map(|row| row.rig.as_str()).collect();
            let never = lacks.iter().all(|row| row.counts == Counts::default());
            if never && !told.insert((&view.workload, settings.to_string(), rigs.clone())) {
                continue;
            }
            let lacking = |row: &&Row| Lacking { rig: row.rig.clone(), counts: row.counts.clone() };
            found.push(Raised {
                workload: view.workload.clone(),
                laps: Vec::new(),
                doubt: Doubt::Missing {
                    of: cell_name(view, settings),
                    rigs: lacks.iter().map(lacking).collect(),
                },
                remedy: Remedy::RunAgain { rigs: rigs.into_iter().map(str::to_owned).collect() },
            });
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn a_rig_without_a_figure_is_told_with_the_reason() {
        let both = [("still", 1000.0), ("reel", 1000.0)];
        let lab = || Lab::default().day("heron-1", 2, &both);
        assert_eq!(lab().day("wren-1", 1, &both).judged().found(find), []);
        let never = lab().day("wren-1", 1, &both[..1]).judged().found(find);
        assert_eq!(never.len(), 1);
        let lacking = |raised: &Raised| match &raised.doubt {
            Doubt::Missing { of, rigs } => (of.workload.clone(), rigs[0].clone()),
            other => panic!("{other:?}"),
        };
        let (of, wren) = lacking(&never[0]);
        assert_eq!(
            (of.as_str(), wren.rig.as_str(), wren.counts),
            ("reel", "wren", Counts::default())
        );
        let mut failed = lab().day("wren-1", 1, &both);
        let reel = |lap: &&mut crate::lab::KnownLap| {
            lap.workload == "reel" && lap.name.session.rig == "wren"
        };
        failed.laps.iter_mut().filter(reel).for_each(|lap| lap.outcome = Outcome::Signal);
        let failed = failed.judged().found(find);
        assert_eq!(lacking(&failed[0]).1.counts.not_done[&Outcome::Signal], 5);
        let mut seen = lab().day("wren-1", 1, &both);
        seen.laps.iter_mut().filter(reel).for_each(|lap| lap.outcome = Outcome::Failed);
        assert_eq!(seen.judged().found(find), [], "a person said that it failed");
    }
}
