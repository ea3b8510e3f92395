//! *Held back*: a lap that hardly worked: it waited, for a disk or for something that is not seen.
//!
//! Being bound by a processor or a card is what rigs are compared for, and no doubt. Swapping, heat and
//! a display's cap have findings of their own.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::lab::{Limit, Limited, Run, limit, threads_of};
use crate::record::LapName;
use std::collections::BTreeMap;

/// Returns what every workload and rig raises most of whose laps waited.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    type Seen = (usize, Vec<(LapName, Limited)>);
    let threads = threads_of(evidence.sessions);
    let mut seen: BTreeMap<(&str, &str), Seen> = BTreeMap::new();
    for series in evidence.series {
        let threads = threads.get(&series.session).copied();
        let (workload, rig, _) = series.cell();
        let (laps, waited) = seen.entry((workload, rig)).or_default();
        let counted = || series.runs().filter(Run::counts);
        *laps += counted().map(|run| run.len()).sum::<usize>();
        for run in counted() {
            run.each_known(|lap, facts| {
                let limited = limit(facts, lap.wall, threads);
                let waits = |l: &Limited| matches!(l.by, Limit::Disk | Limit::Waiting);
                waited.extend(limited.filter(waits).map(|limited| (lap.name(), limited)));
            });
        }
    }
    let raised = |((workload, rig), (laps, waited)): ((&str, &str), Seen)| {
        let by = waited.first()?.1.clone();
        // A lap that waits now and then is an odd lap, if anything.
        (2 * waited.len() > laps).then(|| Raised {
            workload: workload.to_owned(),
            laps: waited.into_iter().map(|(lap, _)| lap).collect(),
            doubt: Doubt::MostlyWaiting { rig: rig.to_owned(), by },
            remedy: Remedy::again(rig),
        })
    };
    seen.into_iter().filter_map(raised).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::unit::Nanos;

    #[test]
    fn laps_that_mostly_waited_are_told_and_one_that_did_is_not() {
        let mut lab = Lab::default().day("wren-1", 1, &[("still", 4000.0)]);
        lab.sessions[0].found.threads = Some(8);
        for lap in 1..=5 {
            let sampled = &mut lab.facts(&format!("wren-1.{lap}")).conditions.sampled;
            sampled.cores_busy = Some(if lap == 1 { 0.1 } else { 1.0 });
        }
        assert_eq!(lab.found(find), []);
        for lap in 2..=4 {
            let own = &mut lab.facts(&format!("wren-1.{lap}")).conditions.own;
            own.disk = Some(Nanos::from_seconds(2));
        }
        let found = lab.found(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 4));
        let Doubt::MostlyWaiting { by, .. } = &found[0].doubt else { panic!("{found:?}") };
        assert_eq!(by.by, Limit::Waiting, "that of the first");
    }
}
