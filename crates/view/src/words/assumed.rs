//! What is assumed of laps that are too few to show how far they differ, in words.

use super::list::listed_in_short;
use crate::number::percent;
use honest_lap_core::judge::{AssumedSpread, WorkloadView};

/// Returns by how much laps are assumed to differ, and how that is known, workload by workload; nothing where none are.
pub fn assumed_spread(views: &[WorkloadView]) -> Option<String> {
    let said: Vec<String> = views.iter().filter_map(of_workload).collect();
    (!said.is_empty()).then(|| {
        format!(
            "Assumed: too few laps show no lap-to-lap variation of their own, so their intervals, ranks and verdicts take {}. \
             Three laps of each replace what is assumed.",
            said.join("; ")
        )
    })
}

fn of_workload(view: &WorkloadView) -> Option<String> {
    let rows = || view.groups.iter().flat_map(|group| &group.rows);
    let assumed = |row: &honest_lap_core::judge::Row| AssumedSpread::of(row.cell.as_ref()?);
    let known = rows().find_map(assumed)?;
    let mut rigs: Vec<String> =
        rows().filter(|row| assumed(row).is_some()).map(|row| row.rig.clone()).collect();
    rigs.sort();
    rigs.dedup();
    let measure = if view.measure.is_time() { "" } else { view.measure.name.as_str() };
    let of = [view.workload.as_str(), measure].join(" ");
    Some(format!("{} of {} for {}", how(&known), of.trim_end(), listed_in_short(&rigs)))
}

fn how(known: &AssumedSpread) -> String {
    let by = match (known.stated, known.further) {
        (Some(_), 0.0) => "stated".to_owned(),
        (Some(stated), _) => format!("stated {}, and laps of other cells", percent(stated)),
        (None, _) => "as laps of other cells show".to_owned(),
    };
    format!("{} ({by}; {} degrees of freedom)", percent(known.sd), known.degrees)
}
