//! Which cells keep to a cap, and which workloads tell what lies under theirs.

use super::series::{LapSeries, Run};
use crate::frame::cap_of;
use crate::record::Settings;
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// What is known of the passes of a lab that keep to a display's rate or a limiter's.
#[derive(Clone, Debug, Default)]
pub(crate) struct Capped {
    /// The cells of which at least half the passes do, by workload, rig and variant.
    pub(crate) cells: BTreeSet<(String, String, Settings)>,
    /// The workloads that have such a cell, and busy times in all passes: what is under the cap is known.
    pub(crate) by_work: BTreeSet<String>,
}

/// Returns what of `all` series is capped: the passes that count, of the workloads `framed`, each in the form of its task that is
/// compared.
pub(super) fn capped(framed: &BTreeMap<&str, u32>, all: &[LapSeries]) -> Capped {
    if framed.is_empty() {
        return Capped::default();
    }
    // Of each cell, how many passes there are, and how many keep to a cap.
    let mut cells: HashMap<(&str, &str, &Settings), (usize, usize)> = HashMap::new();
    let mut untold: BTreeSet<&str> = BTreeSet::new();
    for series in all.iter().filter(|one| framed.get(one.workload.as_str()) == Some(&one.task)) {
        for run in series.runs().filter(Run::counts) {
            let Some(digest) = run.alike.frames() else { continue };
            if digest.busy.is_none() {
                untold.insert(&series.workload);
            }
            let (all, capped) = cells.entry(series.cell()).or_default();
            *all += run.len();
            *capped += if cap_of(digest).is_some() { run.len() } else { 0 };
        }
    }
    let mut found = Capped::default();
    for ((workload, rig, settings), (all, capped)) in cells {
        if capped * 2 < all {
            continue;
        }
        found.cells.insert((workload.to_owned(), rig.to_owned(), settings.clone()));
        if !untold.contains(workload) {
            found.by_work.insert(workload.to_owned());
        }
    }
    found
}
