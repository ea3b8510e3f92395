//! *Too few laps*: a figure rests on fewer laps than a verdict needs.

use super::doubt::Doubt;
use super::parts::FewLaps;
use super::raised::{Raised, Remedy};
use super::series::Series;
use crate::judge::LEAST_LAPS;
use crate::record::{LapName, Settings};
use std::collections::BTreeMap;

/// Returns what every workload and rig raises with a cell of one or two counted laps.
pub(super) fn find(all: &[Series<'_>]) -> Vec<Raised> {
    let mut cells: BTreeMap<(&str, &str, &Settings), Vec<&Series<'_>>> = BTreeMap::new();
    for series in all {
        let key = (series.workload(), series.rig(), series.settings());
        cells.entry(key).or_default().push(series);
    }
    type Few = (Vec<FewLaps>, Vec<LapName>);
    let mut few: BTreeMap<(&str, &str), Few> = BTreeMap::new();
    for ((workload, rig, settings), series) in cells {
        let laps = series.iter().map(|series| series.len()).sum();
        if (1..LEAST_LAPS).contains(&laps) {
            let (cells, all) = few.entry((workload, rig)).or_default();
            cells.push(FewLaps { settings: settings.clone(), laps });
            all.extend(series.iter().flat_map(|series| series.names()));
        }
    }
    let raised = |((workload, rig), (cells, laps)): ((&str, &str), Few)| {
        let doubt = Doubt::TooFewLaps { rig: rig.to_owned(), cells, needed: LEAST_LAPS };
        Raised { workload: workload.to_owned(), laps, doubt, remedy: Remedy::again(rig) }
    };
    few.into_iter().map(raised).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn two_laps_are_few_and_three_in_all_are_not() {
        let found = Lab::default().session("heron-1", &[1.0, 1.1]).found_in_series(find);
        let Doubt::TooFewLaps { rig, cells, needed } = &found[0].doubt else { panic!("{found:?}") };
        assert_eq!((rig.as_str(), cells[0].laps, *needed), ("heron", 2, 3));
        assert_eq!((found.len(), found[0].laps.len()), (1, 2));
        let more = Lab::default().session("heron-1", &[1.0, 1.1]).session("heron-2", &[1.0]);
        assert_eq!(more.found_in_series(find), []);
    }
}
