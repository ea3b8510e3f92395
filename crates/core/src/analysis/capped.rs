//! Which cells keep to a cap, and which workloads tell what lies under theirs.

use crate::frame::cap_of;
use crate::lab::Lab;
use crate::record::Settings;
use std::collections::{BTreeMap, BTreeSet};

/// What is known of the passes of a lab that keep to a display's rate or a limiter's.
#[derive(Default)]
pub(super) struct Capped {
    /// The cells of which at least half the passes do, by workload, rig and variant.
    pub(super) cells: BTreeSet<(String, String, Settings)>,
    /// The workloads that have such a cell, and busy times in all passes: what is under the cap is known.
    pub(super) by_work: BTreeSet<String>,
}

/// Passes of a cell: all of them, and those that keep to a cap.
type Passes = (u32, u32);

/// Returns what of `lab` is capped: of the compared forms of its tasks, the passes that count.
pub(super) fn capped(lab: &Lab) -> Capped {
    let framed = |(workload, id): (&String, &u32)| {
        let form = lab.tasks.iter().find(|form| form.id == *id)?;
        form.task.kind.framed().map(|_| (workload.clone(), *id))
    };
    let framed: BTreeMap<String, u32> = lab.forms.iter().filter_map(framed).collect();
    if framed.is_empty() {
        return Capped::default();
    }
    let mut cells: BTreeMap<(String, String, Settings), Passes> = BTreeMap::new();
    let mut untold: BTreeSet<&str> = BTreeSet::new();
    for lap in lab.laps().iter().filter(|lap| lap.counts()) {
        if framed.get(&lap.workload) != Some(&lap.task) {
            continue;
        }
        let Some(digest) = lab.facts.get(&lap.name).and_then(|facts| facts.frames.as_deref())
        else {
            continue;
        };
        if digest.busy.is_none() {
            untold.insert(&lap.workload);
        }
        let cell = (lap.workload.clone(), lap.name.session.rig.clone(), lap.settings.clone());
        let (all, capped) = cells.entry(cell).or_default();
        *all += 1;
        *capped += u32::from(cap_of(digest).is_some());
    }
    cells.retain(|_, (all, capped)| *capped * 2 >= *all);
    let cells: BTreeSet<_> = cells.into_keys().collect();
    let by_work = cells.iter().map(|(workload, ..)| workload.clone());
    Capped { by_work: by_work.filter(|name| !untold.contains(name.as_str())).collect(), cells }
}
