//! *Too few laps*: a figure rests on fewer laps than a verdict needs.

use super::series::Series;
use super::{Doubt, again};
use crate::judge::LEAST_LAPS;
use std::collections::BTreeMap;

/// Returns a doubt for every workload and rig with a cell of one or two counted laps.
pub(super) fn find(all: &[Series<'_>]) -> Vec<Doubt> {
    type Few<'a> = Vec<(String, Vec<&'a crate::record::LapName>)>;
    let mut few: BTreeMap<(&str, &str), Few> = BTreeMap::new();
    let mut cells: BTreeMap<_, Vec<_>> = BTreeMap::new();
    for series in all {
        let rig = series.session.rig.as_str();
        let settings = series.settings.to_string();
        let names = series.laps.iter().map(|(name, _)| *name);
        cells.entry((series.workload, rig, settings)).or_default().extend(names);
    }
    for ((workload, rig, settings), laps) in &cells {
        if (1..LEAST_LAPS).contains(&laps.len()) {
            few.entry((workload, rig)).or_default().push((settings.clone(), laps.clone()));
        }
    }
    few.into_iter()
        .map(|((workload, rig), cells)| {
            let clause = |(settings, laps): &(String, Vec<_>)| {
                let laps = if laps.len() == 1 { "1 counted lap" } else { "2 counted laps" };
                if settings.is_empty() { laps.to_owned() } else { format!("{laps} of {settings}") }
            };
            let clauses: Vec<String> = cells.iter().map(clause).collect();
            Doubt {
                name: "too few laps",
                workload: workload.to_owned(),
                laps: cells.iter().flat_map(|(_, laps)| laps.iter().map(|&l| l.clone())).collect(),
                evidence: format!("{rig} has {}, and {LEAST_LAPS} are needed", clauses.join(", ")),
                settle: again(rig, workload),
                false_alarms: None,
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn two_laps_are_few_and_three_in_all_are_not() {
        let found = Lab::default().session("heron-1", &[1.0, 1.1]).found_in_series(find);
        assert_eq!(found[0].evidence, "heron has 2 counted laps, and 3 are needed");
        assert_eq!((found.len(), found[0].laps.len()), (1, 2));
        let more = Lab::default().session("heron-1", &[1.0, 1.1]).session("heron-2", &[1.0]);
        assert_eq!(more.found_in_series(find), []);
    }
}
