//! *Held back*: a lap that hardly worked: it waited, for a disk or for something that is not seen.
//!
//! Being bound by a processor or a card is what rigs are compared for, and no doubt. Swapping, heat and
//! a display's cap have doubts of their own.

use super::limit::{Limit, limit};
use super::{Doubt, Evidence, again, known};
use crate::record::{LapHead, LapName};
use std::collections::{BTreeMap, HashMap};

/// Returns a doubt for every workload and rig most of whose laps waited.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    type Seen<'a> = (usize, Vec<(&'a LapHead, Limit, String)>);
    let threads: HashMap<_, _> =
        evidence.sittings.iter().map(|sitting| (&sitting.name, sitting.found.threads)).collect();
    let mut seen: BTreeMap<(&str, &str), Seen<'_>> = BTreeMap::new();
    for (lap, facts) in known(evidence) {
        let threads = threads.get(&lap.name.session).copied().flatten();
        let key = (lap.workload.as_str(), lap.name.session.rig.as_str());
        let (laps, waited) = seen.entry(key).or_default();
        *laps += 1;
        let held = lap.wall.and_then(|wall| limit(facts, wall, threads));
        if let Some((limit @ (Limit::Disk | Limit::Waiting), said)) = held {
            waited.push((lap, limit, said));
        }
    }
    let doubt = |((workload, rig), (laps, waited)): ((&str, &str), Seen<'_>)| {
        let (first, limit, said) = waited.first()?;
        // A lap that waits now and then is an odd lap, if anything.
        (2 * waited.len() > laps).then(|| Doubt {
            name: "held back",
            workload: workload.to_owned(),
            laps: waited.iter().map(|(lap, ..)| lap.name.clone()).collect::<Vec<LapName>>(),
            evidence: format!(
                "on {rig} most laps were {}, so its time says little of the machine: in lap {} {said}",
                limit.words(),
                first.name
            ),
            settle: format!(
                "find what it waits for (network, disk, a limit of its rate), then {}",
                again(rig, workload)
            ),
            false_alarms: None,
        })
    };
    seen.into_iter().filter_map(doubt).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::unit::Nanos;

    #[test]
    fn laps_that_mostly_waited_are_told_and_one_that_did_is_not() {
        let mut lab = Lab::default().day("wren-1", 1, &[("still", 4000.0)]);
        lab.sittings[0].found.threads = Some(8);
        for lap in 1..=5 {
            let sampled = &mut lab.facts(&format!("wren-1.{lap}")).conditions.sampled;
            sampled.cores_busy = Some(if lap == 1 { 0.1 } else { 1.0 });
        }
        assert_eq!(lab.found(find), []);
        for lap in 2..=4 {
            let sampled = &mut lab.facts(&format!("wren-1.{lap}")).conditions.sampled;
            sampled.stalled_disk = Some(Nanos::from_seconds(2));
        }
        let found = lab.found(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 4));
        assert!(found[0].evidence.contains("most laps were waiting"), "{found:?}");
    }
}
