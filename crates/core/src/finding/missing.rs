//! *Missing*: a rig has no figure where the others have one.

use super::{Doubt, Evidence, again, cell_name, listed, rigs_beside};
use crate::judge::{Counts, Row};

/// Returns a doubt for every comparison in which a rig that drove something else has no figure, with
/// the reason. What a rig cannot do, by its study, is shown in its row and is no doubt.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let mut found = Vec::new();
    for view in evidence.views {
        for (settings, rows) in rigs_beside(view) {
            let lacks: Vec<&Row> =
                rows.iter().filter(|row| row.cell.is_none() && row.unsupported.is_none()).collect();
            if lacks.is_empty() || lacks.len() == rows.len() {
                continue;
            }
            let said: Vec<String> =
                lacks.iter().map(|row| format!("{} ({})", row.rig, why(row))).collect();
            // What was never driven lacks every measure, and is said once.
            let never = lacks.iter().all(|row| row.counts == Counts::default());
            let name = match (never, settings.is_empty()) {
                (false, _) => cell_name(view, settings),
                (true, true) => view.workload.clone(),
                (true, false) => format!("{} {settings}", view.workload),
            };
            let evidence = format!("{name} has no figure of {}", listed(&said));
            if found.iter().any(|doubt: &Doubt| doubt.evidence == evidence) {
                continue;
            }
            let settle: Vec<String> =
                lacks.iter().map(|row| again(&row.rig, &view.workload)).collect();
            found.push(Doubt {
                name: "missing",
                workload: view.workload.clone(),
                laps: Vec::new(),
                evidence: format!(
                    "{} has no figure of {}",
                    cell_name(view, settings),
                    listed(&said)
                ),
                settle: settle.join("; "),
                false_alarms: None,
            });
        }
    }
    found
}

/// Returns why a row has no figure.
fn why(row: &Row) -> String {
    let reasons = row.counts.why_not();
    match (reasons.is_empty(), row.counts.warm_up) {
        (true, 0) => "never driven".to_owned(),
        (true, _) => "warm-ups only".to_owned(),
        (false, _) => reasons.join(", "),
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::Outcome;

    #[test]
    fn a_rig_without_a_figure_is_told_with_the_reason() {
        let both = [("still", 1000.0), ("reel", 1000.0)];
        let lab = || Lab::default().day("heron-1", 2, &both);
        assert_eq!(lab().day("wren-1", 1, &both).judged().found(find), []);
        let never = lab().day("wren-1", 1, &both[..1]).judged().found(find);
        assert_eq!(never.len(), 1);
        assert_eq!(never[0].evidence, "reel has no figure of wren (never driven)");
        let mut failed = lab().day("wren-1", 1, &both);
        let reel = |lap: &&mut crate::record::LapHead| {
            lap.workload == "reel" && lap.name.session.rig == "wren"
        };
        failed.laps.iter_mut().filter(reel).for_each(|lap| lap.outcome = Outcome::Signal);
        let failed = failed.judged().found(find);
        assert_eq!(failed[0].evidence, "reel has no figure of wren (5 ended by a signal)");
    }
}
