//! *Nothing to choose*: every rig comes out the same, so something else was the limit all along.

use super::limit::{Limit, limit};
use super::{Doubt, Evidence, cell_name, known, listed, per_cent, rigs_beside};
use crate::judge::Row;
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// Rigs that tie by chance are two; three are a pattern.
const LEAST_RIGS: usize = 3;

/// Returns a doubt for every workload and measure in which three rigs or more, of different
/// processors as far as that is known, lie within the margin of each other.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let mut found = Vec::new();
    for view in evidence.views {
        for (settings, rows) in rigs_beside(view) {
            let placed: Vec<&Row> = rows.iter().filter(|row| row.places.is_some()).collect();
            let typical = || placed.iter().filter_map(|row| Some(row.cell.as_ref()?.typical()));
            let (least, most) =
                typical().fold((f64::INFINITY, 0.0f64), |(a, b), x| (a.min(x), b.max(x)));
            let apart = most / least - 1.0;
            let rigs: Vec<&str> = placed.iter().map(|row| row.rig.as_str()).collect();
            if placed.len() < LEAST_RIGS || apart > evidence.assume.margin || alike(evidence, &rigs)
            {
                continue;
            }
            found.push(Doubt {
                name: "nothing to choose",
                workload: view.workload.clone(),
                laps: Vec::new(),
                evidence: format!(
                    "{}: {} lie within {} of each other{}",
                    cell_name(view, settings),
                    listed(&rigs),
                    per_cent(apart),
                    limits(evidence, &view.workload, &rigs)
                ),
                settle: format!(
                    "give {} more to do, or lift what limits it, until the rigs can differ",
                    view.workload
                ),
                false_alarms: None,
            });
        }
    }
    found
}

/// Returns whether all of `rigs` are known to have the same processor: then a tie is what to expect.
fn alike(evidence: &Evidence<'_>, rigs: &[&str]) -> bool {
    let of = |rig: &str| {
        let mut sittings = evidence.sittings.iter().filter(|sitting| sitting.name.rig == rig);
        sittings.find_map(|sitting| sitting.found.processor.as_deref())
    };
    let known: Option<BTreeSet<&str>> = rigs.iter().map(|rig| of(rig)).collect();
    known.is_some_and(|processors| processors.len() == 1)
}

/// Returns what the conditions show of the limit, ready to be added to a sentence.
fn limits(evidence: &Evidence<'_>, workload: &str, rigs: &[&str]) -> String {
    let threads: HashMap<_, _> =
        evidence.sittings.iter().map(|sitting| (&sitting.name, sitting.found.threads)).collect();
    let mut seen: BTreeMap<Limit, (BTreeSet<&str>, String)> = BTreeMap::new();
    for (lap, facts) in known(evidence) {
        let rig = lap.name.session.rig.as_str();
        if lap.workload != workload || !rigs.contains(&rig) {
            continue;
        }
        let threads = threads.get(&lap.name.session).copied().flatten();
        if let Some((limit, said)) = lap.wall.and_then(|wall| limit(facts, wall, threads)) {
            seen.entry(limit).or_insert_with(|| (BTreeSet::new(), said)).0.insert(rig);
        }
    }
    match seen.into_iter().max_by_key(|(_, (rigs, _))| rigs.len()) {
        None => "; what limited them, the conditions do not show".to_owned(),
        Some((limit, (rigs, said))) => {
            let rigs: Vec<&str> = rigs.into_iter().collect();
            let were = if rigs.len() == 1 { "was" } else { "were" };
            format!("; {} {were} {}: {said}", listed(&rigs), limit.words())
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn lab(wren: f64) -> Lab {
        let lab = Lab::default()
            .day("heron-1", 3, &[("still", 1000.0)])
            .day("plover-1", 2, &[("still", 1003.0)])
            .day("wren-1", 1, &[("still", wren)]);
        lab.judged()
    }

    #[test]
    fn three_that_tie_are_told_with_what_the_conditions_show() {
        let mut tied = lab(1001.0);
        for rig in 0..3 {
            tied.sittings[rig].found.threads = Some(8);
        }
        for rig in ["heron", "plover", "wren"] {
            tied.facts(&format!("{rig}-1.1")).conditions.sampled.cores_busy = Some(1.0);
        }
        let found = tied.found(find);
        assert_eq!(
            found[0].evidence,
            "still: heron, wren and plover lie within 0.3 % of each other; heron, plover and wren were \
             one-thread-bound: 1.0 of 8 threads were in use"
        );
        assert_eq!(lab(1100.0).found(find), [], "one of them differs");
    }

    #[test]
    fn rigs_of_one_processor_are_expected_to_tie() {
        let mut tied = lab(1001.0);
        for rig in 0..3 {
            tied.sittings[rig].found.processor = Some("H12".into());
        }
        assert_eq!(tied.found(find), []);
        tied.sittings[2].found.processor = Some("L8".into());
        assert_eq!(tied.found(find).len(), 1);
    }
}
